import { createRouter, createWebHistory } from "vue-router";

import ShelfPage from "./pages/ShelfPage.vue";

/** The bench is fetched once the shelf is seen. */
export const BenchPage = () => import("./pages/BenchPage.vue");

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
