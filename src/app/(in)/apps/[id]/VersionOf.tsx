import { versionNamed } from '../../../../core/api/versions';
import { Link } from '../../../../ui/primitives/Link';

/** The version of the API a key or subscription was made for, and when it ends. */
export function VersionOf({ version }: { version: string }) {
  const { sunsetAt } = versionNamed(version);
  return (
    <>
      <Link href="/apps/api#versions">{version}</Link>
      {sunsetAt !== undefined && (
        <span className="block text-[13px] text-ochre-ink">ends {new Date(sunsetAt).toISOString().slice(0, 10)}</span>
      )}
    </>
  );
}
