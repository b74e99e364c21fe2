import { useI18n } from "vue-i18n";
import type { Figure, Owed, Reason, Row } from "@/api/types";
import { figureText } from "@/shared/format";
import { formOf, named } from "@/shared/problem";

/** A word that stands for a round or a point, without its number. */
export const bare = (item: string): string => item.split(":")[0] ?? item;
/** Words for the codes that the server sends. */
export function useWords(): {
  item: (item: string) => string;
  short: (item: string) => string;
  reasons: (list: readonly Reason[]) => string;
  answer: (row: Row) => string;
  said: (answer: string, read: Figure | null) => string;
  authored: (row: Row) => boolean;
  owed: (list: readonly Owed[]) => string[];
} {
  const i18n = useI18n();
  const { t } = i18n;
  const known = (where: string, name: string): string =>
    t(i18n.te(`${where}.${bare(name)}`) ? `${where}.${bare(name)}` : `${where}.other`);
  const item = (name: string): string => known("item", name);
  const short = (name: string): string => known("short", name);
  const reasons = (list: readonly Reason[]): string =>
    list
      .map((reason) =>
        t(
          formOf(i18n, `reason.${reason.code}`, reason.params),
          named(i18n, `reason.${reason.code}`, reason.params),
        ),
      )
      .join("; ");
  const said = (code: string, read: Figure | null): string => {
    if (read) return figureText(read);
    const where = ["answer", "choice"].find((place) => i18n.te(`${place}.${code}`));
    return where === undefined ? code : t(`${where}.${code}`);
  };
  const answer = (row: Row): string => said(row.answer, row.read);

  function owed(list: readonly Owed[]): string[] {
    const tools = list.filter((one) => one.debt === "tool_on").map((one) => one.fastener ?? "");
    const parts = list.filter((one) => one.debt === "owed_part").map((one) => one.text ?? one.title);
    const plain = list.filter((one) => one.debt !== "tool_on" && one.debt !== "owed_part");
    const counts = new Map<string, number>();
    for (const one of plain) counts.set(one.debt, (counts.get(one.debt) ?? 0) + 1);
    const kinds = Array.from(counts, ([kind, n]) => {
      const words = t(`bench.owed_${kind}`);
      return n === 1 ? words : `${n} × ${words}`;
    });
    const rest = [...kinds, ...parts];
    if (tools.length === 1) rest.push(t("bench.owed_tool_on", { fastener: tools[0] ?? "" }));
    if (tools.length > 1) rest.push(t("bench.owed_tools_on", { fasteners: tools.join(", ") }));
    return rest;
  }

  const authored = (row: Row): boolean => row.worded;
  return { item, short, reasons, answer, said, authored, owed };
}
