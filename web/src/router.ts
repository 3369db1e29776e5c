import { createRouter, createWebHistory } from "vue-router";

import BenchPage from "./pages/BenchPage.vue";
import ShelfPage from "./pages/ShelfPage.vue";

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: "/", name: "shelf", component: ShelfPage },
    { path: "/jobs/:id(\\d+)", name: "bench", component: BenchPage, props: ({ params }) => ({ id: Number(params.id) }) },
    {
      path: "/jobs/:id(\\d+)/try-outs", name: "try-outs", component: BenchPage,
      props: ({ params }) => ({ id: Number(params.id), trying: true }),
    },
    { path: "/how-it-goes", name: "how", component: () => import("@/pages/HowPage.vue") },
    { path: "/:rest(.*)*", redirect: "/" },
  ],
});
