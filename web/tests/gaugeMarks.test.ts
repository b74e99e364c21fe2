import { mount } from "@vue/test-utils";
import { describe, expect, it } from "vitest";
import type { Measuring } from "@/api/types";
import GaugeMarks from "@/bench/GaugeMarks.vue";
import type { Orientation } from "@/bench/turning";

const UPRIGHT: Orientation = { quarterTurns: 0, mirrored: false };

function drawn(measuring: Partial<Measuring>, orientation = UPRIGHT): ReturnType<typeof mount> {
  return mount(GaugeMarks, {
    props: { measuring: { marks: [], depths: [], ...measuring }, orientation, reach: 100 },
  });
}

const TIP = { label: "fore edge", state: "now", x: -50, y: 0, points_deg: 0, across_mm: null } as const;
const ACROSS = { label: "90°", state: "now", x: 0, y: 0, points_deg: 90, across_mm: 340 } as const;

describe("where a gauge stands", () => {
  it("points along the crankshaft as the plan lies", () => {
    expect(
      drawn({ marks: [TIP] })
        .get(".now")
        .attributes("transform"),
    ).toBe("translate(-50 0) rotate(0)");
  });

  it("turns and mirrors with the plan", () => {
    const turn = drawn({ marks: [TIP] }, { quarterTurns: 1, mirrored: false }).get(".now");
    expect(turn.attributes("transform")).toMatch(/^translate\(-?0 -50\) rotate\(90\)$/);
    const mirror = drawn({ marks: [TIP] }, { quarterTurns: 0, mirrored: true }).get(".now");
    expect(mirror.attributes("transform")).toBe("translate(50 0) rotate(180)");
  });

  it("lies across a bore with both its ends, up the screen for a right angle to the shaft", () => {
    const line = drawn({ marks: [ACROSS] })
      .get(".now line")
      .attributes();
    const ends = ["x1", "y1", "x2", "y2"].map((name) => Math.round(Number(line[name])) + 0);
    expect(ends).toEqual([0, 170, 0, -170]);
    expect(drawn({ marks: [ACROSS] }).findAll(".now circle")).toHaveLength(2);
    expect(drawn({ marks: [{ ...ACROSS, state: "done" }] }).findAll("circle")).toHaveLength(0);
  });

  it("stands onto the face where no direction is stated", () => {
    expect(drawn({ marks: [{ ...TIP, points_deg: null }] }).findAll(".now circle")).toHaveLength(2);
  });

  it("shows the depths of a bore from top to bottom, the present one by name", () => {
    const depths = [
      { label: "30 mm", state: "done", share: 0.05 },
      { label: "600 mm", state: "now", share: 1 },
    ] as const;
    const lines = drawn({ depths: [...depths] }).findAll("g > line");
    const heights = lines.map((line) => Number(line.attributes("y1")));
    expect(heights[0]).toBeLessThan(heights[1] ?? 0);
    expect(
      drawn({ depths: [...depths] })
        .get(".now text")
        .text(),
    ).toBe("600 mm");
    expect(drawn({}).find(".section").exists()).toBe(false);
  });
});
