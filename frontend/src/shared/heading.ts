// A page that opens begins at its heading: it has the focus, so that the keyboard and a reader go on from there.
import { useEffect } from "react";

/** Focus the heading of a page once it is there. */
export function useHeading(there: boolean): void {
  useEffect(() => {
    if (!there) return;
    window.scrollTo(0, 0);
    const heading = document.querySelector<HTMLElement>("main h1, #main h1");
    heading?.setAttribute("tabindex", "-1");
    heading?.focus({ preventScroll: true });
  }, [there]);
}
