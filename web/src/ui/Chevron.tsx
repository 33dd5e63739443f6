/** Which way something unfolds. Drawn, for neither font has it. */
export const Chevron = ({ to, className = "" }: { to: "down" | "right" | "up"; className?: string }) => (
  <svg
    aria-hidden
    viewBox="0 0 10 10"
    className={`inline-block size-[9px] shrink-0 fill-none stroke-current stroke-[1.8] ${className}`}
  >
    <path d={{ down: "M1 3l4 4 4-4", right: "M3 1l4 4-4 4", up: "M1 7l4-4 4 4" }[to]} />
  </svg>
);
