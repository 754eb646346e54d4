import type { InjectionKey, Ref } from "vue";

/** The place in the whole list of the first row that is drawn of it. */
export const LIST_OFFSET: InjectionKey<Readonly<Ref<number>>> = Symbol("list offset");
