// What of an upload is remembered in the browser: where it stopped, never the file itself.

/** Forget what was begun and did not arrive: somebody else may sit here next. */
export function forgetUploads(): void {
  for (const key of Object.keys(localStorage)) if (key.startsWith("tus::")) localStorage.removeItem(key);
}
