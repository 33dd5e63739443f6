import type { AnchorHTMLAttributes } from "react";

const MOVED = "ladder:moved";
/** For weak graphics: no smoothing, no reflections on the stage, lines over edges only at rest. Stays in the address from view to view. */
export const IS_LIGHT = new URLSearchParams(location.search).has("light");
let moved = false;

/** Whether one came here from another view, asked once. */
export function wasMoved(): boolean {
  const was = moved;
  moved = false;
  return was;
}

/** Go to another view without loading the page again. */
export function go(path: string) {
  moved = true;
  history.pushState(null, "", IS_LIGHT ? `${path}?light` : path);
  dispatchEvent(new Event(MOVED));
}

export function listenToAddress(tell: (path: string) => void): () => void {
  const listen = (event: Event) => {
    moved ||= event.type === "popstate";
    tell(location.pathname);
  };
  addEventListener("popstate", listen);
  addEventListener(MOVED, listen);
  return () => {
    removeEventListener("popstate", listen);
    removeEventListener(MOVED, listen);
  };
}

export function Link({ href, ...rest }: AnchorHTMLAttributes<HTMLAnchorElement> & { href: string }) {
  return (
    <a
      href={href}
      onClick={(event) => {
        if (event.metaKey || event.ctrlKey || event.button) return;
        event.preventDefault();
        go(href);
      }}
      {...rest}
    />
  );
}
