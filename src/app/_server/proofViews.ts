import 'server-only';
import { explainProof } from '../../core/proof/wording';
import type { HopProof } from '../../operations/proofs';
import type { ProofView } from '../../ui/domain/ProofRow';

/** Proofs as components show them: worded, with a link to the evidence. */
export function proofViews(proofs: readonly HopProof[]): ProofView[] {
  return proofs.map((proof) => ({
    hop: proof.hop,
    state: proof.state,
    since: proof.since,
    evidenceAt: proof.evidenceAt,
    href: evidencePage(proof.evidenceRef),
    ...explainProof(proof.hop, proof),
  }));
}

/** Where the evidence can be read: a message's trail or a stored request. */
function evidencePage(ref: string | undefined): string | undefined {
  if (ref?.startsWith('msg_')) return `/watch/messages/${ref}`;
  if (ref?.startsWith('inb_')) return `/watch/inbound/${ref}`;
  if (ref?.startsWith('pst_')) return '#posts';
  return undefined;
}
