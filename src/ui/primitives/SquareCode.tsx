/** A square code: how many modules its side has with the margin, and the path of the dark ones. */
export interface Squares {
  side: number;
  path: string;
}

export function SquareCode({ code, label, className }: { code: Squares; label: string; className: string }) {
  return (
    <svg
      viewBox={`0 0 ${code.side} ${code.side}`}
      className={className}
      role="img"
      aria-label={label}
      shapeRendering="crispEdges"
    >
      <rect width={code.side} height={code.side} fill="#ffffff" />
      <path d={code.path} fill="#000000" />
    </svg>
  );
}
