/** Two ropes and three rungs. */
export const Mark = () => (
  <svg width="26" height="30" viewBox="0 0 26 30" aria-hidden className="shrink-0">
    <g stroke="#A2743A" strokeWidth="2.6" fill="none" strokeLinecap="round">
      <path d="M6 2c2 9-2 17 0 26M20 2c-2 9 2 17 0 26" />
    </g>
    <g stroke="#1D2730" strokeWidth="3.2" strokeLinecap="round">
      <path d="M4 8h18M4 15h18M4 22h18" />
    </g>
  </svg>
);
