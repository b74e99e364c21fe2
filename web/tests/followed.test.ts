import { mount } from "@vue/test-utils";
import { createPinia, setActivePinia } from "pinia";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { defineComponent, nextTick } from "vue";
import { useFollowed } from "@/shared/followed";
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

  function opened(fetch: () => Promise<void>): { news: () => Promise<void>; leave: () => void } {
    const screen = mount(
      defineComponent({
        setup: () => {
          useFollowed(fetch);
          return (): null => null;
        },
      }),
    );
    let seq = 0;
    const link = useLink();
    return {
      news: async (): Promise<void> => {
        link.newest = { run_id: "run", seq: ++seq };
        await nextTick();
        await vi.advanceTimersByTimeAsync(0);
      },
      leave: (): void => {
        screen.unmount();
      },
    };
  }

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
