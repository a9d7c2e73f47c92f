// The language comes first: what the modules say as they are loaded is said in it. The styles of the library come
// first too, so that ours hold over them.
import "@fontsource/atkinson-hyperlegible-next/400.css";
import "@fontsource/atkinson-hyperlegible-next/700.css";
import "@fontsource/bitter/700.css";
import "@fontsource/ibm-plex-mono/400.css";
import "@fontsource/ibm-plex-mono/600.css";
import "@mantine/core/styles.css";
import "./shared/base.css";
import "./shared/buttons.css";
import "./shared/marks.css";
import { LANGUAGE, speak } from "./shared/text";

async function start() {
  if (LANGUAGE === "pt") speak((await import("./texts/pt.json")).default);
  await import("./start");
}

start();
