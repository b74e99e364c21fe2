import { createRouter, createWebHistory, type RouteRecordRaw } from "vue-router";
import { learnWords } from "@/i18n";
import { useSession } from "@/shared/session";

const routes: RouteRecordRaw[] = [
  { path: "/", name: "berth", component: () => import("@/berth/BerthView.vue") },
  {
    path: "/engine/:engine",
    name: "engine",
    component: () => import("@/engine/EngineView.vue"),
    props: true,
  },
  {
    path: "/engine/:engine/board",
    name: "board",
    component: () => import("@/engine/BoardView.vue"),
    props: true,
  },
  {
    path: "/engine/:engine/plan",
    name: "plan",
    component: () => import("@/plan/PlanView.vue"),
    props: true,
  },
  {
    path: "/engine/:engine/lists",
    name: "lists",
    component: () => import("@/engine/ListsView.vue"),
    props: true,
  },
  { path: "/tools", name: "tools", component: () => import("@/tools/ToolsView.vue") },
  { path: "/bench", name: "bench-pick", component: () => import("@/bench/BenchPickView.vue") },
  { path: "/bench/:run", name: "bench", component: () => import("@/bench/BenchView.vue"), props: true },
  { path: "/records", name: "records", component: () => import("@/record/RecordsView.vue") },
  {
    path: "/records/:run",
    name: "record",
    component: () => import("@/record/RecordView.vue"),
    props: ({ params, query }) => ({ ...params, stud: query["stud"] }),
  },
  { path: "/sheet/:run", name: "sheet", component: () => import("@/keying/KeyingView.vue"), props: true },
  { path: "/strips", name: "strips", component: () => import("@/surveys/StripsView.vue") },
  { path: "/gates", name: "gates", component: () => import("@/surveys/GatesView.vue") },
  {
    path: "/reckoner/:question?",
    name: "reckoner",
    component: () => import("@/reckoner/ReckonerView.vue"),
    props: true,
  },
  {
    path: "/procedures/:hash?",
    name: "procedures",
    component: () => import("@/procedures/ProceduresView.vue"),
    props: true,
  },
  { path: "/sign-in", name: "sign-in", component: () => import("@/shared/SignInView.vue") },
  { path: "/:rest(.*)*", redirect: "/" },
];

export const router = createRouter({ history: createWebHistory(), routes });

router.beforeEach(async (to) => {
  const session = useSession();
  await session.ensure();
  if (session.me === null && to.name !== "sign-in") return { name: "sign-in", query: { to: to.fullPath } };
  if (to.name !== "sign-in") await learnWords();
  return true;
});
