import { useQueryClient } from "@tanstack/vue-query";
import { defineStore } from "pinia";
import { computed, ref, shallowRef } from "vue";

import { dataOf, done, type Schemas, session, site } from "../api/client";

export type Me = Schemas["Me"];

/** Who is signed in with this browser. */
export const useSession = defineStore("session", () => {
  const queries = useQueryClient();
  const me = shallowRef<Me | null>(null);
  const version = ref("");
  /** Somebody was signed in when the page came, and is not any more. */
  const hasEnded = ref(false);
  let known: Promise<void> | undefined;

  function take(next: Me | null): void {
    if (next?.login !== me.value?.login) queries.clear();
    me.value = next;
    session.guard = next?.guard ?? "";
    if (next) hasEnded.value = false;
  }

  async function look(): Promise<void> {
    const said = await dataOf(site.GET("/api/me"));
    version.value = said.version;
    take(said.me ?? null);
  }

  /** Asks who is signed in, once. */
  function ready(): Promise<void> {
    known ??= look().catch((refused) => {
      known = undefined;
      throw refused;
    });
    return known;
  }

  session.ended = () => {
    if (me.value) hasEnded.value = true;
  };
  session.outdated = () => void look().catch(() => undefined);

  function entered(said: Schemas["Entered"]): Schemas["Entered"] {
    take(said.me);
    known = Promise.resolve();
    return said;
  }

  async function signIn(login: string, password: string): Promise<void> {
    entered(await dataOf(site.POST("/api/sign-in", { body: { login, password } })));
  }

  async function signOut(everywhere = false): Promise<void> {
    await done(site.POST(everywhere ? "/api/sign-out-everywhere" : "/api/sign-out"));
    take(null);
  }

  const taught = computed(() => me.value?.courses.filter((one) => one.part === "instructor") ?? []);
  const learnt = computed(() => me.value?.courses.filter((one) => one.part === "learner") ?? []);

  return { me, version, hasEnded, taught, learnt, ready, look, entered, signIn, signOut };
});
