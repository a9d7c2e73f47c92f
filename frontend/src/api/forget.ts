// What of uploads is remembered in the browser: where each stopped, and the files that have not arrived.
import { forgetFiles } from "./sending";

/** Forget what was begun and did not arrive: somebody else may sit here next. */
export async function forgetUploads(): Promise<void> {
  for (const key of Object.keys(localStorage)) if (key.startsWith("tus::")) localStorage.removeItem(key);
  await forgetFiles();
}
