<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref } from "vue";
import { useI18n } from "vue-i18n";
import { useRoute, useRouter } from "vue-router";
import { answerOf, api } from "@/api/client";
import type { PersonListed } from "@/api/types";
import { useActing } from "@/shared/acting";
import { learnWords } from "@/i18n";
import NumberPad from "@/shared/NumberPad.vue";
import ProblemNote from "@/shared/ProblemNote.vue";
import { useOutbox } from "@/shared/outbox";
import { useSession } from "@/shared/session";

const { t } = useI18n();
const session = useSession();
const outbox = useOutbox();
void outbox.ready();
const route = useRoute();
const router = useRouter();
const people = ref<PersonListed[] | null>(null);
const picked = ref<PersonListed | null>(null);
const pin = ref("");
/** What is typed while a PIN is looked at: it begins the next one, should this one be wrong. */
const ahead = ref("");
const { busy, problem, unsent, clear, act } = useActing();
const PIN_LENGTH = 6;
/** Whose presses wait on this tablet: they go out when that person is here again. */
const waiting = computed(() => {
  const found = new Map<string, number>();
  for (const one of outbox.all) found.set(one.person, (found.get(one.person) ?? 0) + 1);
  return found;
});
const dots = computed(() => Array.from({ length: PIN_LENGTH }, (_, i) => i < pin.value.length));

onMounted(async () => {
  window.addEventListener("keydown", onKey);
  people.value = await answerOf(api.GET("/api/people"));
  // While somebody finds their name: what the other screens say is not waited for to sign in.
  void learnWords();
});

onBeforeUnmount(() => {
  window.removeEventListener("keydown", onKey);
});

function pick(person: PersonListed | null): void {
  picked.value = person;
  pin.value = "";
  clear();
}

async function enter(): Promise<void> {
  const person = picked.value;
  if (person === null || pin.value.length !== PIN_LENGTH) return;
  ahead.value = "";
  const entered = await act(() => session.signIn(person.id, pin.value));
  pin.value = ahead.value;
  ahead.value = "";
  if (!entered) return;
  const wanted = typeof route.query.to === "string" ? route.query.to : "/";
  await router.push(wanted.startsWith("/") && !wanted.startsWith("//") ? wanted : "/");
}

function press(key: string): void {
  if (busy.value) {
    // A whole PIN is never tried unseen.
    if (key === "wipe") ahead.value = ahead.value.slice(0, -1);
    else if (ahead.value.length < PIN_LENGTH - 1) ahead.value += key;
    return;
  }
  clear();
  if (key === "wipe") pin.value = pin.value.slice(0, -1);
  else if (pin.value.length < PIN_LENGTH) pin.value += key;
  if (pin.value.length === PIN_LENGTH) void enter();
}

function onKey(event: KeyboardEvent): void {
  if (picked.value === null) return;
  if (/^\d$/.test(event.key)) press(event.key);
  else if (event.key === "Backspace") press("wipe");
  else if (event.key === "Escape") pick(null);
}
</script>

<template>
  <main id="content" class="page">
    <section class="left">
      <h1>{{ t("ui.app") }}</h1>
      <p class="words ask">{{ t("signin.title") }}</p>
      <p class="aid">{{ t("signin.disclaimer") }}</p>
    </section>
    <section class="right">
      <template v-if="!picked">
        <h2>{{ t("signin.pick") }}</h2>
        <p v-if="people?.length === 0">{{ t("signin.empty") }}</p>
        <ul class="people">
          <li v-for="person in people ?? []" :key="person.id">
            <button type="button" class="person" @click="pick(person)">
              <span class="words" translate="no">{{ person.name }}</span>
              <span class="muted">{{ t(`role.${person.role}`) }}</span>
              <span v-if="waiting.has(person.id)" class="waits">{{
                t("signin.waiting", { n: waiting.get(person.id) ?? 0 })
              }}</span>
            </button>
          </li>
        </ul>
      </template>
      <template v-else>
        <h2>
          <i18n-t keypath="signin.pin">
            <template #name
              ><span translate="no">{{ picked.name }}</span></template
            >
          </i18n-t>
        </h2>
        <div class="dots" role="img" :aria-label="t('ui.of', { done: pin.length, total: 6 })">
          <span v-for="(full, i) in dots" :key="i" :class="{ full }" />
        </div>
        <p v-if="busy" class="muted" role="status">{{ t("signin.checking") }}</p>
        <number-pad :decimal="false" @press="press" />
        <problem-note :problem="problem" :unsent="unsent" class="note" />
        <v-btn class="other" @click="pick(null)">{{ t("signin.other") }}</v-btn>
      </template>
    </section>
  </main>
</template>

<style scoped>
.waits {
  color: var(--doubt);
  font-weight: 700;
}

.page {
  display: grid;
  grid-template-columns: minmax(300px, 5fr) 7fr;
  min-height: 100vh;
}

.left {
  background: var(--bar);
  color: #eef1ee;
  display: flex;
  flex-direction: column;
  padding: 72px 48px 40px;
}

h1 {
  border-left: 10px solid #ff9142;
  font-size: var(--size-8);
  padding-left: 20px;
}

.ask {
  font-size: var(--size-6);
  margin: 28px 0 auto;
}

.aid {
  color: #c6d1d5;
  margin: 0;
  max-width: 40ch;
}

.right {
  padding: 72px 56px 40px;
}

h2 {
  border-bottom: 2px solid var(--ink);
  font-size: var(--size-6);
  padding-bottom: 8px;
}

.people {
  display: grid;
  gap: 12px;
  grid-template-columns: 1fr 1fr;
  list-style: none;
  margin: 20px 0 0;
  padding: 0;
}

.person {
  align-items: flex-start;
  background: var(--panel);
  border: 1px solid var(--line-strong);
  color: var(--ink);
  cursor: pointer;
  display: flex;
  flex-direction: column;
  justify-content: center;
  min-height: 112px;
  padding: 8px 18px;
  width: 100%;
}

.person .words {
  font-size: var(--size-5);
}

.dots {
  display: flex;
  gap: 14px;
  margin: 20px 0;
}

.dots span {
  border: 2px solid var(--ink);
  height: 26px;
  width: 26px;
}

.dots .full {
  background: var(--ink);
}

.note {
  margin-top: 16px;
  max-width: 380px;
}

.other {
  margin-top: 16px;
}

.at-narrow .page {
  grid-template-columns: minmax(0, 1fr);
  grid-template-rows: auto 1fr;
}

.at-narrow .left {
  gap: var(--gap-2);
  padding: var(--gap-4) var(--gap-3);
}

.at-narrow .ask {
  font-size: var(--size-4);
  margin: 0;
}

.at-narrow .aid {
  font-size: var(--size-1);
}

.at-narrow .right {
  padding: var(--gap-4) var(--gap-3);
}

.at-narrow h1 {
  font-size: var(--size-6);
}

.at-narrow .person {
  min-height: 72px;
}

.at-phone .people {
  grid-template-columns: 1fr;
}
</style>
