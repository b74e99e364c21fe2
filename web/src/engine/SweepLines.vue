<script setup lang="ts">
import { computed } from "vue";
import { useI18n } from "vue-i18n";
import type { CrankView } from "@/api/types";
import { partWords } from "@/shared/problem";

/** Before the crank moves: what stands in its way, whom it concerns, what moves with it. */
const props = defineProps<{ crank: CrankView; brief?: boolean }>();
const SHOWN = 6;
const few = computed(() => {
  const all = props.crank.not_known;
  return all.slice(0, SHOWN).join(", ") + (all.length > SHOWN ? ` + ${String(all.length - SHOWN)}` : "");
});
const i18n = useI18n();
const { t } = i18n;
</script>

<template>
  <div class="sweep">
    <p v-if="crank.obstacles.length === 0 && crank.not_known.length === 0" class="clear">
      {{ t("engine.crank_clear") }}
    </p>
    <ul v-if="crank.obstacles.length > 0">
      <li v-for="one in crank.obstacles" :key="`${one.code}${one.joint}${one.what}`">
        {{ t(`engine.obstacle.${one.code}`, { joint: one.joint ?? "", what: partWords(i18n, one.what) }) }}
      </li>
    </ul>
    <!-- What nobody has looked at is never clear. -->
    <p v-if="crank.not_known.length > 0">
      {{ t("engine.crank_not_known", { joints: few }) }}
    </p>
    <p v-if="crank.concerned.length > 0">
      {{
        t("engine.crank_concerned", { who: crank.concerned.map((c) => `${c.joint} (${c.by})`).join(", ") })
      }}
    </p>
    <p v-if="!brief" class="muted">{{ t("engine.crank_moves", { what: crank.moves_with.join(", ") }) }}</p>
  </div>
</template>

<style scoped>
.sweep {
  display: grid;
  font-size: var(--size-2);
  gap: 4px;
}

p,
ul {
  margin: 0;
}

ul {
  list-style: none;
  padding: 0;
}

li {
  border-left: 5px solid var(--out);
  font-weight: 700;
  margin-bottom: 4px;
  padding-left: 8px;
}

.clear::before {
  content: "✓ ";
}
</style>
