import {
  acceptCompletion, autocompletion, type CompletionSource, completionKeymap, completionStatus, moveCompletionSelection,
  selectedCompletionIndex,
} from "@codemirror/autocomplete";
import { defaultKeymap, history, historyKeymap } from "@codemirror/commands";
import { EditorState, type Extension } from "@codemirror/state";
import { drawSelection, EditorView, type KeyBinding, keymap } from "@codemirror/view";
import { onBeforeUnmount, onMounted, type Ref, shallowRef, watch } from "vue";

interface Options {
  /** What it is called for those who do not see it. */
  label: string;
  /** What may come at the cursor. */
  completions: CompletionSource;
  /** Keys of its own, before the usual ones. */
  keys?: KeyBinding[];
  extensions?: Extension[];
  attributes?: Record<string, string>;
}

/** Takes the chosen completion, or the first one; without a list, Tab goes on to the next control. */
function takeFirst(here: EditorView): boolean {
  const status = completionStatus(here.state);
  if (status === "pending" && here.dom.querySelector(".cm-tooltip-autocomplete")) {
    // The list that is seen is being made anew after the last letter: it is taken from when it is there.
    const typed = here.state.doc;
    requestAnimationFrame(() => {
      if (here.state.doc === typed) takeFirst(here);
    });
    return true;
  }
  if (status !== "active") return false;
  if ((selectedCompletionIndex(here.state) ?? -1) < 0) moveCompletionSelection(true)(here);
  return acceptCompletion(here);
}

/**
 * An editor at a place of the page, whose text goes both ways. Nothing is chosen in its list of completions until one
 * moves into it: Enter stays a new line; Tab or a click takes an entry.
 */
export function useCodeEditor(place: Readonly<Ref<HTMLElement | null>>, text: Ref<string>, options: Options) {
  const view = shallowRef<EditorView>();

  onMounted(() => {
    view.value = new EditorView({
      parent: place.value ?? undefined,
      state: EditorState.create({
        doc: text.value,
        extensions: [
          history(),
          drawSelection(),
          autocompletion({
            icons: false, selectOnOpen: false, interactionDelay: 0, defaultKeymap: false, override: [options.completions],
          }),
          EditorView.lineWrapping,
          EditorView.contentAttributes.of({ "aria-label": options.label, tabindex: "0", ...options.attributes }),
          EditorView.updateListener.of((change) => {
            if (change.docChanged) text.value = change.state.doc.toString();
          }),
          keymap.of([
            ...completionKeymap,
            ...(options.keys ?? []),
            { key: "Tab", run: takeFirst },
            ...historyKeymap,
            ...defaultKeymap,
          ]),
          ...(options.extensions ?? []),
        ],
      }),
    });
  });
  onBeforeUnmount(() => view.value?.destroy());

  watch(text, (next) => {
    if (view.value && view.value.state.doc.toString() !== next) {
      view.value.dispatch({ changes: { from: 0, to: view.value.state.doc.length, insert: next } });
    }
  });

  return view;
}
