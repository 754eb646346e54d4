import { useTitle } from "@vueuse/core";
import { computed, type ComputedRef, onScopeDispose, shallowRef } from "vue";
import { useRoute } from "vue-router";

import { useSession } from "./use-session";

type Words = () => string | undefined;

/** What the page at hand is about, as soon as its data says so. */
const named = shallowRef<Words>();

/** Names a page by what it is about: by an exercise's title, in the place of "Exercise". */
export function usePageName(words: Words): void {
  named.value = words;
  // The next page may have named itself by now.
  onScopeDispose(() => {
    if (named.value === words) named.value = undefined;
  });
}

/** What the page at hand is called, whether its data is there or not. */
export function usePageTitle(): ComputedRef<string> {
  const route = useRoute();
  return computed(() => named.value?.() || String(route.meta.title ?? ""));
}

/** The title of the course at hand, as the account's own list of courses has it. */
export function useCourseTitle(): ComputedRef<string | undefined> {
  const route = useRoute();
  const session = useSession();
  return computed(() => session.me?.courses.find((one) => one.slug === route.params.course)?.title);
}

/** Has the browser's tab and its history say which page of which course this is. */
export function useTabTitle(): void {
  const page = usePageTitle();
  const course = useCourseTitle();
  useTitle(() => [page.value, course.value, "Jentrow"].filter(Boolean).join(" · "));
}
