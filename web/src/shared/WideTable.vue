<script setup lang="ts">
import { onMounted, ref } from "vue";
import { useI18n } from "vue-i18n";

/** A table that scrolls sideways by itself where it does not fit, by touch and by keyboard. */
const props = defineProps<{ label?: string; labelledby?: string; file?: string }>();
const frame = ref<HTMLElement | null>(null);
const { t } = useI18n();

/** A word that a spreadsheet would take for a formula gets an apostrophe (as in the record's own table). */
const disarmed = (text: string): string => (/^[=+\-@\t\r']/.test(text) ? `'${text}` : text);
const quoted = (text: string): string => `"${disarmed(text).replaceAll('"', '""')}"`;

/** The table as it stands, as comma-separated values (RFC 4180), but for the keys in it. */
function download(): void {
  const rows = Array.from(frame.value?.querySelectorAll("tr") ?? [], (row) =>
    Array.from(row.cells)
      .filter((cell) => cell.dataset["act"] === undefined)
      .map((cell) => quoted(cell.innerText.replace(/\s+/g, " ").trim()))
      .join(","),
  );
  const file = new Blob(["\uFEFF", rows.join("\r\n"), "\r\n"], { type: "text/csv" });
  const link = document.createElement("a");
  link.href = URL.createObjectURL(file);
  link.download = `${props.file ?? "jorvek"}.csv`;
  link.click();
  URL.revokeObjectURL(link.href);
}
onMounted(() => {
  const scrolls = frame.value?.querySelector<HTMLElement>(".v-table__wrapper");
  scrolls?.setAttribute("tabindex", "0");
  scrolls?.setAttribute("role", "region");
  if (props.label !== undefined) scrolls?.setAttribute("aria-label", props.label);
  if (props.labelledby !== undefined) scrolls?.setAttribute("aria-labelledby", props.labelledby);
});
</script>

<template>
  <div ref="frame" class="wide-table">
    <v-table density="compact"><slot /></v-table>
    <v-btn v-if="file" class="export" height="44" @click="download">{{ t("ui.table_csv") }}</v-btn>
  </div>
</template>

<style scoped>
/* What only readers of the screen hear in a cell scrolls with it, and makes the page no wider. */
.wide-table :deep(.v-table__wrapper) {
  position: relative;
}

.export {
  font-size: var(--size-2);
  height: auto !important;
  margin-top: 6px;
  max-width: 100%;
  min-height: var(--touch);
  white-space: normal;
}
</style>
