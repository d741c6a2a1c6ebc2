/** Keeps the place of the page's head and first panel while the server reads. */
export default function Loading() {
  return (
    <div aria-busy="true">
      <p className="sr-only" role="status">
        Loading
      </p>
      <div className="mb-5 border-b border-line pb-3">
        <div className="h-7 w-48 rounded bg-bank" />
        <div className="mt-2 h-4 w-96 max-w-full rounded bg-bank" />
      </div>
      <div className="h-64 rounded-md border border-line bg-panel" />
    </div>
  );
}
