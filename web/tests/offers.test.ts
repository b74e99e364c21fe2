import { mount } from "@vue/test-utils";
import { describe, expect, it } from "vitest";
import type { Offer } from "@/api/types";
import OfferLine from "@/berth/OfferLine.vue";
import { i18n } from "@/i18n";
import { vuetify } from "@/theme";

const OFFER: Offer = {
  hash: "0".repeat(64),
  id: "head-land",
  title: "Head — land",
  revision: "B",
  purpose: "tighten",
  begins: "open",
  leaves: "landed",
  when: "now",
  barriers: [],
  pays: [],
};
const BARRIER: Offer["barriers"][number] = {
  why: "rule",
  joint: "liner-4",
  label: "Liner 4",
  stands: ["open"],
  wanted: ["landed"],
  rule: "liner-under-head",
  reason: "A head closes over nothing",
  departable: false,
};

function line(offer: Partial<Offer>, mayDepart = true): ReturnType<typeof mount> {
  const props = { offer: { ...OFFER, ...offer }, mayStart: true, mayDepart };
  return mount(OfferLine, { props, global: { plugins: [i18n, vuetify] } });
}

describe("a procedure on the start sheet", () => {
  it("is started by a touch when nothing stands in its way", async () => {
    const shown = line({});
    await shown.get("button").trigger("click");
    expect(shown.emitted("start")).toHaveLength(1);
  });

  it("is no button while something does: what stands in the way leads there", async () => {
    const shown = line({ barriers: [BARRIER] });
    expect(shown.text()).toContain("Liner 4 is open; it would have to be landed");
    expect(shown.text()).not.toContain("Start");
    await shown.get(".barrier").trigger("click");
    expect(shown.emitted("go")).toEqual([["liner-4"]]);
  });

  it("says one thing a joint, what nobody departs from first", () => {
    const soft = { ...BARRIER, why: "gate" as const, departable: true };
    const shown = line({ barriers: [soft, BARRIER] });
    expect(shown.findAll(".barrier")).toHaveLength(1);
    expect(shown.text()).toContain("would have to be landed");
    expect(shown.text()).not.toContain("Start all the same");
  });

  it("offers a departure only where every barrier has one, and only to whoever may", () => {
    const soft = { ...BARRIER, departable: true };
    expect(line({ barriers: [soft] }).text()).toContain("Start all the same");
    expect(line({ barriers: [soft] }, false).text()).not.toContain("Start all the same");
  });

  it("is not started before its time, nor once it was done", () => {
    expect(line({ when: "later" }).text()).toContain("Later");
    expect(line({ when: "done" }).text()).toContain("done");
    expect(line({ when: "later" }).find(".v-btn").exists()).toBe(false);
  });
});
