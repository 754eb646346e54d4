import { useEventListener } from "@vueuse/core";
import { onScopeDispose } from "vue";

/** What the server tells as it happens, for as long as the calling scope lives and its page is in view. */
export function useEvents(address: () => string, event: string, told: (data: string) => void) {
  let source: EventSource | undefined;

  function listen(): void {
    if (source) return;
    source = new EventSource(address());
    source.addEventListener(event, (message: MessageEvent<string>) => told(message.data));
  }

  function close(): void {
    source?.close();
    source = undefined;
  }
  // A page that a browser keeps for going back would keep its connection, too, and there are few.
  useEventListener(window, "pagehide", close);
  useEventListener(window, "pageshow", (shown) => {
    if (shown.persisted) listen();
  });
  onScopeDispose(close);

  return { listen, close };
}
