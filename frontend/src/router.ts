import { createRouter, createWebHistory } from "vue-router";

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: "/", redirect: { name: "exercises" } },
    {
      path: "/samples",
      name: "samples",
      meta: { stop: "samples" },
      component: () => import("./views/samples/SamplesView.vue"),
    },
    {
      path: "/make-a-sample",
      name: "make",
      meta: { stop: "samples" },
      component: () => import("./views/make/MakeView.vue"),
    },
    {
      path: "/samples/:sample",
      name: "sample",
      meta: { stop: "samples" },
      component: () => import("./views/bench/SampleBench.vue"),
    },
    {
      path: "/exercises",
      name: "exercises",
      meta: { stop: "exercises" },
      component: () => import("./views/exercises/ExercisesView.vue"),
    },
    {
      path: "/exercises/:slug",
      name: "exercise",
      meta: { stop: "exercises" },
      component: () => import("./views/exercise/ExerciseView.vue"),
    },
    {
      path: "/take-a-pack-in",
      name: "pack",
      meta: { stop: "exercises" },
      component: () => import("./views/pack/PackView.vue"),
    },
    {
      path: "/sheets",
      name: "sheets",
      meta: { stop: "sheets" },
      component: () => import("./views/sheets/SheetsView.vue"),
    },
    {
      path: "/answers",
      name: "answers",
      meta: { stop: "answers" },
      component: () => import("./views/answers/AnswersView.vue"),
    },
    {
      path: "/take-answers-in",
      name: "taking",
      meta: { stop: "answers" },
      component: () => import("./views/answers/TakeInView.vue"),
    },
    {
      path: "/answers/:id(\\d+)",
      name: "submission",
      meta: { stop: "answers" },
      component: () => import("./views/submission/SubmissionView.vue"),
    },
    {
      path: "/:rest(.*)*",
      name: "nowhere",
      component: () => import("./views/NowhereView.vue"),
    },
  ],
});
