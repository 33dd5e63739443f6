import type { ReactNode } from "react";

import { wasMoved } from "./address";

/** The heading of a page: it takes the focus where one came from another page, so that the new one is read out. */
export const Title = ({
  className = "",
  title,
  children,
}: {
  className?: string;
  title?: string;
  children: ReactNode;
}) => (
  <h1
    ref={(heading) => {
      if (heading && wasMoved()) heading.focus({ preventScroll: true });
    }}
    tabIndex={-1}
    title={title}
    className={`font-name font-semibold outline-none ${className}`}
  >
    {children}
  </h1>
);
