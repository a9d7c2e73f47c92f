// A page opens, or says why not: a piece of the program that is gone or out of reach never leaves a blank sheet.
import { type ReactNode, Suspense } from "react";
import { ErrorBoundary } from "react-error-boundary";
import { useLocation } from "react-router";
import { Skeleton } from "./Notes";
import { say } from "./text";

export function Opens({ children }: { children: ReactNode }) {
  const { pathname } = useLocation();
  return (
    <ErrorBoundary
      resetKeys={[pathname]}
      fallbackRender={() => (
        <main className="jc-page">
          <div className="jc-problem" role="alert">
            <b>{say("This page did not open.")}</b> {say("What you typed is kept.")}{" "}
            <button type="button" className="jc-link" onClick={() => window.location.reload()}>
              {say("Load it again")}
            </button>
          </div>
        </main>
      )}
    >
      <Suspense fallback={<Skeleton lines={8} />}>{children}</Suspense>
    </ErrorBoundary>
  );
}

/**
 * When the office renewed its program while a page stood open, the pieces that the old one would fetch next are gone. The page is then
 * loaded anew: what was typed is kept by the office, and files on their way by the browser.
 */
export function watchForRenewal() {
  const own = document.querySelector("script[type=module][src]")?.getAttribute("src");
  window.addEventListener("vite:preloadError", async () => {
    const now = await fetch("/", { cache: "no-store" }).then(
      (r) => (r.ok ? r.text() : ""),
      () => "",
    );
    if (own && now && !now.includes(own)) window.location.reload();
  });
}
