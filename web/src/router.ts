import { createRouter, createWebHistory, type RouteRecordRaw } from "vue-router";
import { useSession } from "./stores/session";

const routes: RouteRecordRaw[] = [
  { path: "/", name: "berth", component: () => import("./views/BerthView.vue") },
  { path: "/bench", name: "bench-pick", component: () => import("./views/BenchPickView.vue") },
  { path: "/bench/:run", name: "bench", component: () => import("./views/BenchView.vue"), props: true },
  { path: "/records", name: "records", component: () => import("./views/RecordsView.vue") },
  { path: "/records/:run", name: "record", component: () => import("./views/RecordView.vue"), props: true },
  { path: "/sheet/:run", name: "sheet", component: () => import("./views/SheetView.vue"), props: true },
  { path: "/strips", name: "strips", component: () => import("./views/StripsView.vue") },
  { path: "/gates", name: "gates", component: () => import("./views/GatesView.vue") },
  {
    path: "/reckoner/:question?",
    name: "reckoner",
    component: () => import("./views/ReckonerView.vue"),
    props: true,
  },
  {
    path: "/procedures/:hash?",
    name: "procedures",
    component: () => import("./views/ProceduresView.vue"),
    props: true,
  },
  { path: "/sign-in", name: "sign-in", component: () => import("./views/SignInView.vue") },
  { path: "/:rest(.*)*", redirect: "/" },
];

export const router = createRouter({ history: createWebHistory(), routes });

router.beforeEach(async (to) => {
  const session = useSession();
  await session.ensure();
  if (session.me === null && to.name !== "sign-in") return { name: "sign-in", query: { to: to.fullPath } };
  return true;
});
