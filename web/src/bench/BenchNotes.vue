<script setup lang="ts">
import { computed } from "vue";
import type { BenchView } from "@/api/types";
import ClaimNote from "@/bench/ClaimNote.vue";
import QuestionNote from "@/bench/QuestionNote.vue";
import StuckNote from "@/bench/StuckNote.vue";
import SisterNote from "@/bench/SisterNote.vue";
import TroubleNote from "@/bench/TroubleNote.vue";
import { useSession } from "@/shared/session";

/** What stands open above the call, the most pressing of each kind. */
const props = defineProps<{ view: BenchView }>();
const session = useSession();
const mayDecide = computed(() => session.rights.has("accept"));
const troubles = computed(() => props.view.troubles.filter((one) => one.how === null).slice(0, 1));
const checks = computed(() => props.view.sister_checks.filter((one) => one.found_too === null).slice(0, 1));
</script>

<template>
  <claim-note
    v-for="claim in view.claims.slice(0, 1)"
    :key="`claim ${claim.seq}`"
    :claim="claim"
    :count="view.claims.length"
    :may-decide="mayDecide"
  />
  <question-note
    v-for="question in view.questions.slice(0, 1)"
    :key="question.row.cell"
    :question="question"
  />
  <stuck-note v-for="stuck in view.stuck.slice(0, 1)" :key="`stuck ${stuck.seq}`" :stuck="stuck" />
  <trouble-note v-for="trouble in troubles" :key="trouble.seq" :trouble="trouble" />
  <sister-note v-for="check in checks" :key="check.seq" :check="check" />
</template>

<style>
.note {
  border: 2px dashed var(--doubt);
  padding: 8px 12px 10px;
}

.note.question {
  border: 2px solid var(--out);
}

.note.pictured {
  position: relative;
}

.note.pictured > p {
  padding-right: 80px;
}

.note.pictured > p.words {
  min-height: 64px;
}

.note p {
  font-size: var(--size-4);
  margin: 0;
}

.note p.why {
  font-size: var(--size-1);
}

.note small {
  color: var(--muted);
  font-family: var(--run);
  font-size: var(--size-1);
  font-weight: 400;
}

.note .ways {
  display: grid;
  gap: 8px;
  grid-template-columns: repeat(auto-fit, minmax(150px, 1fr));
  margin-top: 8px;
}

.note .ways .v-btn {
  font-size: var(--size-3);
  /* What comes of a key is read before it is pressed: none of it is cut. */
  height: auto !important;
  justify-content: start;
  min-height: 64px;
  min-width: 0;
  padding: 0 6px;
}

.note .ways .v-btn__content {
  white-space: normal;
}
</style>
