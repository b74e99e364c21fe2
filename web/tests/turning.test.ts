import { describe, expect, it } from "vitest";
import { edges, turned, type Orientation } from "@/bench/turning";

const ends = { x_minus: "flywheel", x_plus: "free", y_minus: "camshaft", y_plus: "exhaust" };
const stands = ([0, 1, 2, 3] as const).flatMap((quarterTurns): Orientation[] => [
  { quarterTurns, mirrored: false },
  { quarterTurns, mirrored: true },
]);

describe("the plan as a person stands to it", () => {
  it("has the exhaust side on top when nobody has turned it", () => {
    expect(edges(ends, { quarterTurns: 0, mirrored: false })).toEqual({
      left: "flywheel",
      right: "free",
      top: "exhaust",
      bottom: "camshaft",
    });
  });

  it("turns clockwise: what was at the left comes to the top", () => {
    expect(edges(ends, { quarterTurns: 1, mirrored: false })).toEqual({
      left: "camshaft",
      right: "exhaust",
      top: "flywheel",
      bottom: "free",
    });
  });

  it("mirrors the length of the engine and leaves its sides", () => {
    const seen = edges(ends, { quarterTurns: 0, mirrored: true });
    expect([seen.left, seen.right, seen.top]).toEqual(["free", "flywheel", "exhaust"]);
  });

  it("never moves a stud nearer or farther, nor two studs to one place", () => {
    const studs = [
      { x: -205, y: 205 },
      { x: 205, y: 205 },
      { x: 205, y: -205 },
      { x: -205, y: -205 },
      { x: 10, y: 90 },
    ];
    for (const orientation of stands) {
      const seen = studs.map((stud) => turned(stud, orientation));
      seen.forEach((place, i) => {
        expect(Math.hypot(place.x, place.y)).toBeCloseTo(Math.hypot(studs[i]?.x ?? 0, studs[i]?.y ?? 0));
      });
      expect(new Set(seen.map((place) => `${place.x}/${place.y}`)).size).toBe(studs.length);
      expect(new Set(Object.values(edges(ends, orientation))).size).toBe(4);
    }
  });

  it("comes back after four turns and after two mirrorings", () => {
    const stud = { x: 30, y: -70 };
    const quarter = (place: { x: number; y: number }): { x: number; y: number } => {
      const seen = turned(place, { quarterTurns: 1, mirrored: false });
      return { x: seen.x, y: -seen.y };
    };
    const back = quarter(quarter(quarter(quarter(stud))));
    expect(back.x).toBeCloseTo(stud.x);
    expect(back.y).toBeCloseTo(stud.y);
  });
});
