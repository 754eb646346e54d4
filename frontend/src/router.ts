import { createRouter, createWebHistory, type RouteLocationNormalized, type RouteRecordRaw } from "vue-router";

import { enterCourse } from "./api/client";
import { useSession } from "./composables/use-session";

/** Where the work on a course is done; each belongs to a stop of the path. */
const taught: RouteRecordRaw[] = [
  {
    path: "",
    name: "needs",
    meta: { title: "What needs you", stop: "needs", guide: "marking#what-needs-you" },
    component: () => import("./views/needs/NeedsView.vue"),
  },
  {
    path: "samples",
    name: "samples",
    meta: { title: "Samples", stop: "samples", guide: "instructing#samples" },
    component: () => import("./views/samples/SamplesView.vue"),
  },
  {
    path: "make-a-sample",
    name: "make",
    meta: { title: "Make a sample", stop: "samples", guide: "instructing#making-one" },
    component: () => import("./views/make/MakeView.vue"),
  },
  {
    path: "samples/:sample",
    name: "sample",
    meta: { title: "Sample", stop: "samples", guide: "instructing#looking-at-it" },
    component: () => import("./views/bench/SampleBench.vue"),
  },
  {
    path: "exercises",
    name: "exercises",
    meta: { title: "Exercises", stop: "exercises", guide: "instructing#exercises" },
    component: () => import("./views/exercises/ExercisesView.vue"),
  },
  {
    path: "exercises/:slug",
    name: "exercise",
    meta: { title: "Exercise", stop: "exercises", guide: "exercises" },
    component: () => import("./views/exercise/ExerciseView.vue"),
  },
  {
    path: "blind-spots",
    name: "blind-spots",
    meta: { title: "Blind spots", stop: "exercises", guide: "blind-spots" },
    component: () => import("./views/blindspots/BlindSpotsView.vue"),
  },
  {
    path: "take-a-pack-in",
    name: "pack",
    meta: { title: "Import a pack", stop: "exercises", guide: "instructing#packs" },
    component: () => import("./views/pack/PackView.vue"),
  },
  {
    path: "sheets",
    name: "sheets",
    meta: { title: "Sheets", stop: "sheets", guide: "instructing#sheets" },
    component: () => import("./views/sheets/SheetsView.vue"),
  },
  {
    path: "answers",
    name: "answers",
    meta: { title: "Answers", stop: "answers", guide: "comparison" },
    component: () => import("./views/answers/AnswersView.vue"),
  },
  {
    path: "marking/:slug",
    name: "desk",
    meta: { title: "Marking", stop: "answers", guide: "marking#the-marking-desk" },
    component: () => import("./views/desk/MarkingDesk.vue"),
  },
  {
    path: "take-answers-in",
    name: "taking",
    meta: { title: "Import answers", stop: "answers", guide: "instructing#answers-from-files" },
    component: () => import("./views/answers/TakeInView.vue"),
  },
  {
    path: "answers/:id(\\d+)",
    name: "submission",
    meta: { title: "Answer", stop: "answers", guide: "comparison#what-is-found" },
    component: () => import("./views/submission/SubmissionView.vue"),
  },
  {
    path: "marks",
    name: "marks",
    meta: { title: "Marks", stop: "marks", guide: "marking#marks" },
    component: () => import("./views/marks/MarksView.vue"),
  },
  {
    path: "feedback/:sheet",
    name: "feedback",
    meta: { title: "Feedback", stop: "marks", guide: "marking#publishing" },
    component: () => import("./views/feedback/FeedbackView.vue"),
  },
  {
    path: "present",
    name: "present",
    // What is on the projector is all that there is on the page.
    meta: { title: "A query, step by step", isBare: true },
    component: () => import("./views/present/PresentView.vue"),
  },
  {
    path: "people",
    name: "people",
    meta: { title: "People", stop: "people", guide: "instructing#courses-and-people" },
    component: () => import("./views/people/PeopleView.vue"),
  },
];

const own: RouteRecordRaw[] = [
  { path: "", name: "own", meta: { title: "Your sheets", guide: "learning#your-sheets" }, component: () => import("./views/own/OwnCourseView.vue") },
  {
    path: "marks-of/:sheet",
    name: "own-marks",
    meta: { title: "Marks and comments", guide: "learning#marks-and-comments" },
    component: () => import("./views/own/OwnMarksView.vue"),
  },
  {
    path: ":sheet/:slug",
    name: "own-exercise",
    meta: { title: "Exercise", guide: "learning#an-exercise" },
    component: () => import("./views/own/OwnExerciseView.vue"),
  },
];

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: "/", name: "courses", component: () => import("./views/entry/CoursesView.vue") },
    {
      path: "/sign-in",
      name: "sign-in",
      meta: { open: true },
      component: () => import("./views/entry/SignInView.vue"),
    },
    {
      path: "/links/:token",
      name: "link",
      meta: { open: true },
      component: () => import("./views/entry/LinkView.vue"),
    },
    {
      path: "/join/:code?",
      name: "join",
      meta: { open: true },
      component: () => import("./views/entry/JoinView.vue"),
    },
    { path: "/account", name: "account", component: () => import("./views/entry/AccountView.vue") },
    { path: "/courses/:course/own", meta: { part: "learner" }, children: own },
    { path: "/courses/:course", meta: { part: "instructor" }, children: taught },
    {
      path: "/:rest(.*)*",
      name: "nowhere",
      meta: { title: "There is no such page", open: true },
      component: () => import("./views/NowhereView.vue"),
    },
  ],
});

/** Whoever is not signed in signs in first, and then comes to where they wanted to go. */
router.beforeEach(async (to: RouteLocationNormalized) => {
  const session = useSession();
  await session.ready().catch(() => undefined);
  if (!to.meta.open && !session.me) {
    return { name: "sign-in", query: to.path === "/" ? {} : { to: to.fullPath } };
  }
  const { course } = to.params;
  if (typeof course !== "string") return true;
  enterCourse(course);
  // Each sees their own side of a course, whichever address they were given.
  const part = session.me?.courses.find((one) => one.slug === course)?.part;
  if (part === "learner" && to.meta.part === "instructor") return { name: "own", params: { course } };
  if (part === "instructor" && to.meta.part === "learner") {
    return { name: "exercises", params: { course } };
  }
  return true;
});
