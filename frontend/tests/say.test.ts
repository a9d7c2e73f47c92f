import { afterEach, expect, test, vi } from "vitest";
import { amount, capital, day, dayOf, exactly, setZone, shortDay, sign, since, size } from "../src/shared/say";
import { say, things } from "../src/shared/text";

afterEach(() => {
  setZone("UTC");
  vi.useRealTimers();
});

test("a day says its year only where it is not this year", () => {
  vi.useFakeTimers({ now: new Date("2026-11-27T10:00:00Z") });
  expect(day("2026-12-01")).toBe("Tue 1 Dec");
  expect(day("2027-01-05")).toBe("Tue 5 Jan 2027");
  expect(shortDay("2026-11-05")).toBe("5 Nov");
});

test("every instant is told by the clock of the office, wherever the window is", () => {
  vi.useFakeTimers({ now: new Date("2026-11-27T10:00:00Z") });
  const instant = "2026-11-27T10:05:00Z";
  expect(exactly(instant)).toBe("Fri 27 Nov 10:05");
  setZone("Pacific/Kiritimati"); // UTC+14
  expect(exactly(instant)).toBe("Sat 28 Nov 00:05");
  expect(dayOf(instant)).toBe("Sat 28 Nov");
  expect(shortDay(instant)).toBe("28 Nov");
});

test("amounts are grouped and have two decimals, without loss", () => {
  expect(amount("31000.00")).toBe("31\u00a0000.00");
  expect(amount("-5.5")).toBe("−5.50");
  expect(amount("12345678901234567.89")).toBe("12\u00a0345\u00a0678\u00a0901\u00a0234\u00a0567.89");
  expect(amount(null)).toBe("");
  expect(sign("EUR")).toBe("€");
  expect(sign("JPY")).toBe("JPY");
});

test("counts, sizes and times ago in words", () => {
  vi.useFakeTimers({ now: new Date("2026-11-27T10:00:00Z") });
  expect(things(1, "file")).toBe("1 file");
  expect(things(2, "finding")).toBe("2 findings");
  expect(say("Nothing is here.")).toBe("Nothing is here.");
  expect(say("until the end of {{day}}", { day: "Tue 1 Dec" })).toBe("until the end of Tue 1 Dec");
  expect(size(0)).toBe("0 bytes");
  expect(size(999)).toBe("1 kB");
  expect(size(1_500_000)).toBe("1.5 MB");
  expect(since("2026-11-27T09:59:58Z")).toBe("a moment ago");
  expect(since("2026-11-27T09:58:00Z")).toBe("2 minutes ago");
  expect(capital("to hand over")).toBe("To hand over");
});
