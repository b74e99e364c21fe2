import { useI18n } from "vue-i18n";
import type { Owed, Reason, Row } from "@/api/types";

const AUTHORED = new Set(["confirm", "vent", "tool_issue"]);
const KNOWN_SHORT = new Set([
  "temperature",
  "length",
  "clear",
  "raise",
  "hold",
  "nut",
  "lowest",
  "feeler",
  "zero",
  "prove",
  "spread",
  "sign",
  "off",
  "seat",
  "thread",
]);

/** Words for the codes that the server sends. */
export function useWords(): {
  item: (kind: string, item: string) => string;
  short: (item: string) => string;
  reasons: (list: readonly Reason[]) => string;
  answer: (row: Row) => string;
  authored: (row: Row) => boolean;
  owed: (list: readonly Owed[]) => string[];
} {
  const { t } = useI18n();
  const item = (kind: string, name: string): string =>
    AUTHORED.has(kind) ? t("item.other") : t(`item.${KNOWN_SHORT.has(name) ? name : "other"}`);
  const short = (name: string): string => t(`short.${KNOWN_SHORT.has(name) ? name : "other"}`);
  const reasons = (list: readonly Reason[]): string =>
    list.map((reason) => t(`reason.${reason.code}`, reason.params)).join("; ");
  const answer = (row: Row): string =>
    row.read ? `${row.read.text} ${row.read.unit}` : t(`answer.${row.answer}`);

  function owed(list: readonly Owed[]): string[] {
    const tools = list.filter((one) => one.kind === "tool_on").map((one) => one.fastener ?? "");
    const rest = list.filter((one) => one.kind !== "tool_on").map((one) => t(`bench.owed_${one.kind}`));
    if (tools.length === 1) rest.push(t("bench.owed_tool_on", { fastener: tools[0] ?? "" }));
    if (tools.length > 1) rest.push(t("bench.owed_tools_on", { fasteners: tools.join(", ") }));
    return rest;
  }

  const authored = (row: Row): boolean => AUTHORED.has(row.kind);
  return { item, short, reasons, answer, authored, owed };
}
