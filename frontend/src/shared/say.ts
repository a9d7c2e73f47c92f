// Values in words. Numbers and dates come computed from the server; here they only get their clothes.
import { say, things } from "./text";

const DAYS = [say("Sun"), say("Mon"), say("Tue"), say("Wed"), say("Thu"), say("Fri"), say("Sat")];
const MONTHS = [
  ...[say("Jan"), say("Feb"), say("Mar"), say("Apr"), say("May"), say("Jun")],
  ...[say("Jul"), say("Aug"), say("Sep"), say("Oct"), say("Nov"), say("Dec")],
];

/** `Tue 1 Dec`, with the year where it is not this year. Takes `YYYY-MM-DD`. */
export function day(iso: string): string {
  const [year = 0, month = 1, date = 1] = iso.slice(0, 10).split("-").map(Number);
  const weekday = DAYS[new Date(Date.UTC(year, month - 1, date)).getUTCDay()];
  const text = `${weekday} ${date} ${MONTHS[month - 1]}`;
  return year === new Date().getFullYear() ? text : `${text} ${year}`;
}

let zone = "UTC";
let dates = new Intl.DateTimeFormat("en-CA", { timeZone: zone, dateStyle: "short" });
let times = new Intl.DateTimeFormat("en-GB", { timeZone: zone, timeStyle: "short" });

/** Tell every instant from now on by the clock of the office. */
export function setZone(name: string): void {
  if (name === zone) return;
  zone = name;
  dates = new Intl.DateTimeFormat("en-CA", { timeZone: zone, dateStyle: "short" });
  times = new Intl.DateTimeFormat("en-GB", { timeZone: zone, timeStyle: "short" });
}

/** The office's calendar day of an instant. */
export function dayOf(instant: string): string {
  return day(dates.format(new Date(instant)));
}

/** `5 Nov`. */
export function shortDay(iso: string): string {
  const [year = 0, month = 1, date = 1] = (iso.length > 10 ? dates.format(new Date(iso)) : iso).split("-").map(Number);
  return `${date} ${MONTHS[month - 1]}${year === new Date().getFullYear() ? "" : ` ${year}`}`;
}

/** Day and time, for hovering. */
export function exactly(instant: string): string {
  return `${dayOf(instant)} ${timeOf(instant)}`;
}

/** `14:05`, by the clock of the office. */
export function timeOf(instant: string): string {
  return times.format(new Date(instant));
}

/** `31 000.00` from a decimal text. */
export function amount(value: string | number | null | undefined): string {
  if (value === null || value === undefined) return "";
  const [whole = "0", cents] = String(value).replace("-", "−").split(".");
  const grouped = whole.replace(/\B(?=(\d{3})+(?!\d))/g, "\u00a0");
  if (cents === undefined && typeof value === "string") return grouped; // a currency without smaller coins
  return `${grouped}.${(cents ?? "").padEnd(2, "0")}`;
}

/** `€` for EUR, else the code of the currency. */
export function sign(currency: string): string {
  return currency === "EUR" ? "€" : currency;
}

export function size(bytes: number): string {
  if (bytes >= 1_000_000) return `${(bytes / 1_000_000).toFixed(1)} MB`;
  return bytes === 0 ? say("0 bytes") : `${Math.max(1, Math.round(bytes / 1000))} kB`;
}

/** How long ago, in words. */
export function since(instant: string): string {
  const seconds = Math.max(0, Math.round((Date.now() - new Date(instant).getTime()) / 1000));
  if (seconds < 5) return say("a moment ago");
  if (seconds < 60) return say("{{time}} ago", { time: things(seconds, "second") });
  if (seconds < 3600) return say("{{time}} ago", { time: things(Math.round(seconds / 60), "minute") });
  if (seconds < 86_400) return say("{{time}} ago", { time: things(Math.round(seconds / 3600), "hour") });
  return say("on {{day}}", { day: dayOf(instant) });
}

/** With a capital at its head. */
export function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}
