import { useQueryClient } from "@tanstack/vue-query";
import { useEventListener, useIntervalFn, useStorage } from "@vueuse/core";
import { defineStore } from "pinia";
import { computed, ref } from "vue";

import { dataOf, RequestProblem, type Schemas, site } from "../api/client";
import { useSession } from "./use-session";
import { lookAgain } from "../api/shown";

/** An answer that is on its way; under its key the server takes it once, however often it is sent. */
export interface Outgoing {
  key: string;
  login: string;
  course: string;
  sheet: string;
  slug: string;
  sql: string;
}

const AGAIN_MS = 3_000;

/** Answers that were handed in and that the server has not said to have: kept until it has. */
export const useOutbox = defineStore("outbox", () => {
  const queries = useQueryClient();
  const session = useSession();
  const waiting = useStorage<Outgoing[]>("jentrow-outbox", []);
  const taken = ref<Schemas["HandedIn"] & Pick<Outgoing, "key" | "sql">>();
  const refused = ref<{ key: string; message: string }>();
  let isSending = false;

  const mine = computed(() => waiting.value.filter((one) => one.login === session.me?.login));

  function forget(key: string): void {
    waiting.value = waiting.value.filter((one) => one.key !== key);
  }

  async function send(one: Outgoing): Promise<void> {
    const { course, sheet, slug, sql, key } = one;
    try {
      const said = await dataOf(
        site.POST("/api/courses/{course}/own/sheets/{sheet}/exercises/{slug}/submissions", {
          params: { path: { course, sheet, slug } },
          body: { sql, key },
        }),
      );
      forget(key);
      taken.value = { ...said, key, sql };
    } catch (problem) {
      const { status, message } = problem as RequestProblem;
      // Without an answer, without a sign-in, or in a hurry, it stays here and is sent again.
      if ([0, 401, 403, 429].includes(status) || status >= 500) throw problem;
      forget(key);
      refused.value = { key, message };
    }
    await lookAgain(queries, "own-exercise", "own-course");
  }

  /** Sends what waits, one after the other, as far as that goes now. */
  async function drain(): Promise<void> {
    if (isSending) return;
    isSending = true;
    try {
      for (const one of [...mine.value]) await send(one);
    } catch {
      // It stays in the outbox, and the page says so.
    } finally {
      isSending = false;
    }
  }

  function handIn(one: Omit<Outgoing, "key" | "login">): string {
    const key = newKey();
    waiting.value = [...waiting.value, { ...one, key, login: session.me?.login ?? "" }];
    refused.value = undefined;
    void drain();
    return key;
  }

  useEventListener(window, "online", () => void drain());
  useIntervalFn(() => {
    if (mine.value.length) void drain();
  }, AGAIN_MS);

  return { waiting: mine, taken, refused, handIn, drain };
});

/** A name that nothing else has; also where the page came without a safe connection. */
function newKey(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  return [...bytes].map((byte) => byte.toString(16).padStart(2, "0")).join("");
}
