import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { dayTimeText, whenText } from "@/shared/format";

/** A moment as the clock on this wall shows it. */
const at = (year: number, month: number, day: number, hour: number, minute: number): string =>
  new Date(year, month - 1, day, hour, minute).toISOString();

describe("when something was", () => {
  beforeEach(() => {
    vi.useFakeTimers({ now: new Date(2026, 10, 26, 7, 10) });
  });
  afterEach(() => {
    vi.useRealTimers();
  });

  it("is a time today, a day and a time before, and a year for another year", () => {
    expect(whenText(at(2026, 11, 26, 6, 58))).toBe("06:58");
    expect(whenText(at(2026, 11, 25, 23, 59))).toBe("25 Nov, 23:59");
    expect(whenText(at(2025, 11, 26, 6, 58))).toBe("26 Nov 2025, 06:58");
    expect(dayTimeText(at(2026, 11, 26, 6, 58))).toBe("26 Nov, 06:58");
    expect(dayTimeText(at(2021, 2, 1, 14, 0))).toBe("01 Feb 2021, 14:00");
  });

  it("grows older with the night: what was a time is a day the next morning", () => {
    const reading = at(2026, 11, 26, 6, 58);
    expect(whenText(reading)).toBe("06:58");
    vi.setSystemTime(new Date(2026, 10, 27, 6, 0));
    expect(whenText(reading)).toBe("26 Nov, 06:58");
  });
});
