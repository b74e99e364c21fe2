import { computed, type ComputedRef } from "vue";
import type { Head, Plan } from "@/api/types";
import { edges, turned, type Edges, type Place, type Orientation } from "@/bench/turning";

export interface PlacedHead {
  head: Head;
  at: Place;
}

/** How a joint is drawn: sizes, places and words, however many fasteners it has and however one stands to it. */
export interface Joint {
  dense: ComputedRef<boolean>;
  heads: ComputedRef<PlacedHead[]>;
  across: ComputedRef<number>;
  reach: ComputedRef<number>;
  box: ComputedRef<string>;
  em: ComputedRef<number>;
  sides: ComputedRef<Edges>;
  shapes: ComputedRef<Plan["outline"]>;
  hoses: ComputedRef<{ name: string; points: string }[]>;
  outward: (at: Place) => Place & { side: string };
  hexagon: (radius: number) => string;
  nearest: (point: Place) => string | null;
}

/** Return the drawing of a joint's plan, in its own mm, y down. */
export function useJoint(plan: () => Plan, orientation: () => Orientation): Joint {
  /** Many heads on a long plan are drawn larger than they are, with their names on them. */
  const dense = computed(() => plan().heads.length > 8);
  const scale = computed(() => {
    const all = plan().heads;
    const across = Math.max(...all.map((head) => head.across));
    if (!dense.value) return 1;
    let nearest = Infinity;
    all.forEach((a, k) => {
      for (const b of all.slice(k + 1)) nearest = Math.min(nearest, Math.hypot(a.x - b.x, a.y - b.y));
    });
    return Math.max(1, Math.min((nearest * 0.74) / across, reach.value / 9 / across));
  });
  const heads = computed(() =>
    plan().heads.map((head) => ({
      head: { ...head, across: head.across * scale.value },
      at: turned(head, orientation()),
    })),
  );
  const across = computed(() => Math.max(...heads.value.map((one) => one.head.across), 1));
  const reach = computed(() => {
    const shapes = plan().outline.map((s) =>
      Math.max(Math.abs(s.x) + s.width / 2, Math.abs(s.y) + s.height / 2),
    );
    const nuts = plan().heads.map((h) => Math.max(Math.abs(h.x), Math.abs(h.y)) + h.across);
    return Math.max(...shapes, ...nuts, 1);
  });
  /** Names and loads stand beside the heads, so the view is wider than high. */
  const WIDER = 1.6;
  const box = computed(() => {
    if (!dense.value) {
      // Names stand outside the outermost heads when there are more than two rows of them.
      const words = plan().heads.length > 4 ? 1.5 : 0.45;
      const half = reach.value + across.value * words;
      // Heights in a bore are written beside the section that stands right of it.
      const right =
        (plan().measuring?.depths.length ?? 0) > 0 ? Math.max(half * WIDER, reach.value * 2) : half * WIDER;
      return `${-half * WIDER} ${-half} ${half * WIDER + right} ${half * 2}`;
    }
    const xs = heads.value.map((one) => one.at.x);
    const ys = heads.value.map((one) => one.at.y);
    const pad = across.value * 1.1;
    const left = Math.min(...xs, ...shapes.value.map((s) => s.x - s.width / 2)) - pad;
    const top = Math.min(...ys, ...shapes.value.map((s) => s.y - s.height / 2)) - pad;
    const right = Math.max(...xs, ...shapes.value.map((s) => s.x + s.width / 2)) + pad;
    const bottom = Math.max(...ys, ...shapes.value.map((s) => s.y + s.height / 2)) + pad;
    return `${left} ${top} ${right - left} ${bottom - top}`;
  });
  /** Where a head's words stand: outwards from the middle of the joint, clear of the tool on it. */
  function outward(at: Place): Place & { side: string } {
    const far = Math.hypot(at.x, at.y);
    const away = across.value * 1.2;
    if (plan().heads.length <= 4 || far === 0) {
      return { x: Math.sign(at.x || -1) * away, y: 0, side: at.x > 0 ? "beside-right" : "beside-left" };
    }
    const x = (at.x / far) * away * 1.2;
    const side = Math.abs(at.x) < far * 0.3 ? "beside-middle" : x > 0 ? "beside-right" : "beside-left";
    // Two lines stand above the topmost head, so they start further out than those below.
    const lift = side === "beside-middle" && at.y < 0 ? em.value * 0.55 : 0;
    return { x, y: (at.y / far) * away * 0.9 - lift, side };
  }
  /** Words and lines keep their size on the screen whatever the joint's size in mm. */
  const em = computed(() => (dense.value ? across.value / 1.6 : reach.value / 5.6));
  const hexagon = (radius: number): string =>
    [0, 60, 120, 180, 240, 300]
      .map((deg) => `${radius * Math.cos((deg * Math.PI) / 180)},${radius * Math.sin((deg * Math.PI) / 180)}`)
      .join(" ");
  const sides = computed(() => edges(plan(), orientation()));

  /** The largest first: a bore is not hidden under its collar. */
  const shapes = computed(() =>
    plan()
      .outline.toSorted((a, b) => b.width * b.height - a.width * a.height)
      .map((shape) => {
        const swap = orientation().quarterTurns % 2 === 1;
        const at = turned(shape, orientation());
        return {
          ...shape,
          ...at,
          width: swap ? shape.height : shape.width,
          height: swap ? shape.width : shape.height,
        };
      }),
  );

  /** A hose is drawn once the tools that it links sit on their studs. */
  const hoses = computed(() =>
    plan().hoses.flatMap((hose) => {
      const tools = hose.tools.map((name) => heads.value.find((one) => one.head.name === name));
      if (!tools.every((one) => one?.head.tool_on)) return [];
      const points = tools.flatMap((one) => (one ? [`${one.at.x},${one.at.y}`] : []));
      return [{ name: hose.name, points: points.join(" ") }];
    }),
  );

  /** The head that a touch means: the nearest one, unless it is far from all. */
  function nearest(point: Place): string | null {
    let best: { name: string; distance: number } | null = null;
    for (const { head, at } of heads.value) {
      const distance = Math.hypot(at.x - point.x, at.y - point.y);
      if (best === null || distance < best.distance) best = { name: head.name, distance };
    }
    return best !== null && best.distance < across.value * 1.6 ? best.name : null;
  }

  return { dense, heads, across, reach, box, em, sides, shapes, hoses, outward, hexagon, nearest };
}
