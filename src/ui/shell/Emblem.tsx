/** Two slopes and the gap between them. */
export function Emblem({ size = 22 }: { size?: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 24 24" aria-hidden className="shrink-0 text-ridge">
      <path d="M1 20 V7 L5 5 C8 8 9 13 11 16 L11 20 Z" fill="currentColor" />
      <path d="M23 20 V10 L20 8 C17 11 15.5 13 13.5 16 L13.5 20 Z" fill="currentColor" opacity=".72" />
      <path d="M3 2.6 H21" stroke="currentColor" strokeWidth="1.6" strokeDasharray="3 2.2" className="text-heather" />
    </svg>
  );
}
