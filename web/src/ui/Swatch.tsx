/** A patch of a colour. */
export const Swatch = ({ colour }: { colour: string }) => (
  <i
    aria-hidden
    className="inline-block size-[11px] shrink-0 rounded-[2px] border border-black/15"
    style={{ background: colour }}
  />
);
