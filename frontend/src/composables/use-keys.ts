import { useEventListener } from "@vueuse/core";
import { defineStore } from "pinia";
import { onScopeDispose, ref } from "vue";

/** One thing that a key does on the page in view. */
export interface KeyAction {
  key: string;
  /** What the keycap shows. */
  cap: string;
  says: string;
  act: () => void;
  /** Held with Ctrl (or Cmd). */
  ctrl?: boolean;
  /** Held with Shift as well. */
  shift?: boolean;
  /** Held with Alt, and nothing else. */
  alt?: boolean;
  /** Also while something is typed. */
  always?: boolean;
  /** Not in the key line, only in the list of all keys. */
  rare?: boolean;
}

/** The keys of the page in view, for the key line at the bottom. */
export const useKeyStore = defineStore("keys", () => {
  const actions = ref<KeyAction[]>([]);
  return { actions };
});

/** Whether keys go into a text just now. */
export function isTyping(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable || ["INPUT", "TEXTAREA", "SELECT"].includes(target.tagName))
  );
}

/** Binds keys for as long as the calling component is in view, and shows them in the key line. */
export function useKeys(actions: KeyAction[]): void {
  const store = useKeyStore();
  store.actions = actions;
  useEventListener(document, "keydown", (event: KeyboardEvent) => {
    if (event.defaultPrevented) return;
    // What is open above the page has the keys to itself.
    if (document.querySelector(".el-overlay:not([style*='none']), .el-popper[aria-hidden='false'] .el-popconfirm")) return;
    const wanted = event.key.length === 1 ? event.key.toLowerCase() : event.key;
    const held = event.ctrlKey || event.metaKey;
    const found = actions.find(
      (action) =>
        action.key === wanted && event.altKey === !!action.alt && held === !!action.ctrl && (!held || event.shiftKey === !!action.shift),
    );
    if (!found || (isTyping(event.target) && !found.always)) return;
    const onControl =
      event.target instanceof HTMLElement &&
      event.target.closest("a, button, summary, [role=radiogroup], .el-segmented");
    if (onControl && ["Enter", " "].includes(event.key)) return;
    event.preventDefault();
    found.act();
  });
  onScopeDispose(() => {
    if (store.actions === actions) store.actions = [];
  });
}
