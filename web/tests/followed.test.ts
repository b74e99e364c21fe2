import { mount } from "@vue/test-utils";
import { createPinia, setActivePinia } from "pinia";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { defineComponent, nextTick } from "vue";
import { LinkError } from "@/api/client";
import { useBeside, useFollowed } from "@/shared/followed";
import { useLink } from "@/shared/link";

describe("a list that follows the work", () => {
  beforeEach(() => {
    vi.useFakeTimers();
    vi.stubGlobal(
      "EventSource",
      class extends EventTarget {
        close(): void {}
      },
    );
    setActivePinia(createPinia());
  });
  afterEach(() => {
    vi.useRealTimers();
  });

  function opened(
    fetch: () => Promise<void>,
    follow: (fetch: () => Promise<void>) => unknown = useFollowed,
    troubles: unknown[] = [],
  ): { news: () => Promise<void>; leave: () => void } {
    const screen = mount(
      defineComponent({
        setup: () => {
          follow(fetch);
          return (): null => null;
        },
      }),
      { global: { config: { errorHandler: (error): void => void troubles.push(error) } } },
    );
    let seq = 0;
    const link = useLink();
    return {
      news: async (): Promise<void> => {
        link.hear({ run_id: "run", seq: ++seq });
        await nextTick();
        await vi.advanceTimersByTimeAsync(0);
      },
      leave: (): void => {
        screen.unmount();
      },
    };
  }

  it("is fetched again once the server answers after it did not: nobody has told what went on meanwhile", async () => {
    let asked = 0;
    const list = opened(() => {
      asked += 1;
      return Promise.resolve();
    });
    await vi.advanceTimersByTimeAsync(0);
    const link = useLink();
    link.lost = true;
    await vi.advanceTimersByTimeAsync(60_000);
    expect(asked).toBe(1);
    link.lost = false;
    await vi.advanceTimersByTimeAsync(2000);
    expect(asked).toBe(2);
    // The same where only its news broke off.
    link.broken = true;
    await vi.advanceTimersByTimeAsync(2000);
    link.broken = false;
    await vi.advanceTimersByTimeAsync(2000);
    expect(asked).toBe(3);
    list.leave();
  });

  it("beside the work the page does without an answer, and asks again with the next news", async () => {
    let asked = 0;
    const troubles: unknown[] = [];
    const fetch = (): Promise<void> => {
      asked += 1;
      return Promise.reject(new LinkError());
    };
    const beside = opened(fetch, useBeside, troubles);
    await vi.advanceTimersByTimeAsync(0);
    expect([asked, troubles]).toEqual([1, []]);
    await beside.news();
    await vi.advanceTimersByTimeAsync(2000);
    expect(asked).toBe(2);
    beside.leave();
    // A page of its own says that it could not be fetched.
    opened(fetch, useFollowed, troubles).leave();
    await vi.advanceTimersByTimeAsync(0);
    expect(troubles).toHaveLength(1);
  });

  it("fetches at once, then in steps while there is much news, and always the last", async () => {
    let fetched = 0;
    const list = opened(() => {
      fetched += 1;
      return Promise.resolve();
    });
    expect(fetched).toBe(1);
    await list.news();
    expect(fetched).toBe(2);
    for (let k = 0; k < 50; k++) {
      await list.news();
      await vi.advanceTimersByTimeAsync(100);
    }
    // Five seconds of news ten times a second are four fetches, not fifty.
    expect(fetched).toBeGreaterThanOrEqual(5);
    expect(fetched).toBeLessThanOrEqual(6);
    const before = fetched;
    await list.news();
    await vi.advanceTimersByTimeAsync(1500);
    expect(fetched).toBe(before + 1);
  });

  it("goes on after an answer that failed, and asks nothing more once it is left", async () => {
    let fetched = 0;
    const list = opened(() => {
      fetched += 1;
      return fetched === 2 ? Promise.reject(new Error("no link")) : Promise.resolve();
    });
    await list.news();
    await vi.advanceTimersByTimeAsync(2000);
    await list.news();
    expect(fetched).toBe(3);
    await list.news();
    list.leave();
    await vi.advanceTimersByTimeAsync(5000);
    expect(fetched).toBe(3);
  });
});
