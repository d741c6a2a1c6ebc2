/** What is proven of each hop, kept in step with the evidence. Others come in here. */
export { beginProofs, fault, groupProofs, type HopProof, recordFacts, type SubjectFact } from './proofs';
