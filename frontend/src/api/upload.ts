// Sending a file by the tus protocol: in pieces, going on where it broke off, refused before it is sent if it is too large.
import { DetailedError, Upload } from "tus-js-client";
import { say } from "../shared/text";
import { ProblemError, tokenHeader } from "./client";

/** Bytes that are sent at a time; what has come of a piece is kept if the line breaks. */
const PIECE = 5_000_000;
/** How long it is waited before each new try, in milliseconds; after that the queue of files waits and begins again. */
const AGAIN = [0, 1000];

/** What the server said against an upload, as a problem like any other. */
function problemIn(error: Error | DetailedError): ProblemError {
  const response = error instanceof DetailedError ? error.originalResponse : null;
  let told: { title?: string; detail?: string; place?: string } = {};
  try {
    told = JSON.parse(response?.getBody() ?? "{}");
  } catch {
    // no problem document
  }
  return new ProblemError({
    type: "about:blank",
    title: told.title ?? say("This did not arrive"),
    status: response?.getStatus() ?? 0,
    detail: told.detail ?? say("The file did not arrive."),
    place: told.place ?? "",
    reasons: [],
    reference: "",
    step: 0,
  });
}

/** Send a file into a slot of a draft; `done` resolves when it has arrived and is attached. `tell` gets the share that was sent (0 to 1). */
export function sendFile(
  draft: string,
  slot: string,
  file: File,
  tell: (share: number) => void,
): { done: Promise<void>; stop: () => void } {
  let failed: (error: ProblemError) => void = () => undefined;
  let arrived: () => void = () => undefined;
  const done = new Promise<void>((resolve, reject) => {
    arrived = resolve;
    failed = reject;
  });
  const upload = new Upload(file, {
    endpoint: "/api/uploads",
    chunkSize: PIECE,
    retryDelays: AGAIN,
    headers: tokenHeader(),
    metadata: { draft, slot, name: file.name },
    removeFingerprintOnSuccess: true,
    fingerprint: async (of) => `jolly-clerk ${draft} ${slot} ${of.name} ${of.size} ${of.lastModified}`,
    onShouldRetry: (error) => {
      const status = error.originalResponse?.getStatus() ?? 0;
      return status === 0 || status === 409 || status >= 500;
    },
    onProgress: (sent, all) => tell(all > 0 ? sent / all : 1),
    onError: (error) => failed(problemIn(error)),
    onSuccess: () => arrived(),
  });
  const stop = () => {
    upload.abort(true).catch(() => undefined);
    failed(problemIn(new Error()));
  };
  upload.findPreviousUploads().then(([before]) => {
    if (before) upload.resumeFromPreviousUpload(before);
    upload.start();
  });
  return { done, stop };
}
