import { useQueryClient } from "@tanstack/vue-query";
import { useTimeoutPoll } from "@vueuse/core";
import { computed, onScopeDispose, ref, shallowRef } from "vue";

import { here, dataOf, type Schemas } from "../../api/client";
import { sendFile } from "../../api/uploads";
import { useAttempt } from "../../composables/use-attempt";
import { newTable, planOf, planOfTable, type PlanTable, toPlan } from "./plan";
import { lookAgain } from "../../api/shown";

type Import = Schemas["Import"];

const LOOK_EVERY_MS = 250;

/** A sample in the making: files handed in, tables corrected, the work watched and stopped. */
export function useMaking() {
  const queries = useQueryClient();
  const current = shallowRef<Import | null>(null);
  const name = ref("");
  const tables = ref<PlanTable[]>([]);
  const { problem, attempt } = useAttempt();
  const sending = ref("");
  const byHand = ref(false);
  const ofSample = ref("");
  /** Whether what was read as DECIMAL is kept as real numbers. */
  const realDecimals = ref(false);
  /** Whether the tables of the sample itself are changed, and not those of a new one. */
  const inPlace = ref(false);
  const uses = ref<Schemas["ExerciseUse"][]>();

  const path = computed(() => ({ import_id: current.value?.id ?? "" }));
  const isWorking = computed(() => current.value?.phase === "working" || sending.value !== "");
  const { resume, pause } = useTimeoutPoll(look, LOOK_EVERY_MS, { immediate: false });

  async function look(): Promise<void> {
    try {
      const next = await dataOf(here().GET("/imports/{import_id}", { params: { path: path.value } }));
      await take(next);
    } catch (refused) {
      problem.value = (refused as Error).message;
      pause();
    }
  }

  /** Takes what the server says of the work; it may be done with the first answer already. */
  async function take(next: Import): Promise<void> {
    current.value = next;
    if (next.phase === "working") {
      resume();
      return;
    }
    pause();
    if (next.phase === "proposed") tables.value = next.tables.map(planOf);
    if (next.phase === "kept")
      await lookAgain(queries, "samples", "sample", "dataset", "rows", "profile", "versions", "exercise", "exercises", "proof");
  }

  /** Hands files in, one after the other, and has them looked at. */
  function handIn(files: File[]): Promise<boolean> {
    return attempt(async () => {
      if (byHand.value || ofSample.value) await begin();
      current.value ??= await dataOf(here().POST("/imports"));
      for (const file of files) {
        sending.value = file.name;
        current.value = await sendFile(path.value.import_id, file);
      }
      sending.value = "";
      const [first] = files;
      if (first && !name.value) name.value = plainName(first.name);
      await lookAt();
    }).finally(() => {
      sending.value = "";
    });
  }

  async function lookAt(given: Partial<Schemas["Look"]> = {}): Promise<void> {
    await take(
      await dataOf(
        here().POST("/imports/{import_id}/look", {
          params: { path: path.value },
          body: { formats: {}, dialect: "", ...given },
        }),
      ),
    );
  }

  /** Reads the files once more, a script in another dialect, a table in another format. */
  function readAgain(given: Partial<Schemas["Look"]>): Promise<boolean> {
    return attempt(() => lookAt(given));
  }

  /** Makes the sample, or keeps the one that was read. */
  function make(): Promise<boolean> {
    return attempt(async () => {
      if (byHand.value) {
        const made = await dataOf(
          here().POST("/samples", {
            body: { name: name.value, tables: tables.value.map((table) => toPlan(table).table) },
          }),
        );
        await lookAgain(queries, "samples");
        current.value = { ...EMPTY, phase: "kept", sample: made.name };
        return;
      }
      const plan =
        current.value?.kind === "csv" || ofSample.value ? tables.value.map(toPlan) : null;
      await take(
        await dataOf(
          here().POST("/imports/{import_id}/make", {
            params: { path: path.value },
            body: { name: inPlace.value ? ofSample.value : name.value, tables: plan, of_sample: ofSample.value, in_place: inPlace.value, real_decimals: realDecimals.value },
          }),
        ),
      );
    });
  }

  /** Asks which exercises use what would be renamed, retyped or dropped. */
  async function lookForUses(): Promise<void> {
    uses.value = undefined;
    await attempt(async () => {
      uses.value = await dataOf(
        here().POST("/samples/{sample}/uses", {
          params: { path: { sample: ofSample.value } }, body: { tables: tables.value.map(toPlan) },
        }),
      );
    });
  }

  function stop(): Promise<boolean> {
    return attempt(async () => {
      current.value = await dataOf(
        here().POST("/imports/{import_id}/stop", { params: { path: path.value } }),
      );
    });
  }

  /** Begins with the tables of a sample, to change them; their rows come along. */
  function startFrom(sample: string, itself = false): Promise<boolean> {
    return attempt(async () => {
      const found = await dataOf(
        here().GET("/samples/{sample}", { params: { path: { sample } } }),
      );
      const begun = await dataOf(here().POST("/imports"));
      ofSample.value = sample;
      inPlace.value = itself;
      name.value = `${sample} changed`;
      tables.value = found.tables.filter((table) => table.kind === "table").map(planOfTable);
      current.value = { ...begun, phase: "proposed" };
    });
  }

  /** Back to the tables after a problem: nothing that was corrected is lost. */
  function correct(): void {
    if (current.value) current.value = { ...current.value, phase: "proposed" };
  }

  async function begin(): Promise<void> {
    await end();
    problem.value = "";
    name.value = "";
    tables.value = [];
    byHand.value = false;
    ofSample.value = "";
    inPlace.value = false;
    realDecimals.value = false;
  }

  async function end(): Promise<void> {
    pause();
    const id = current.value?.id;
    current.value = null;
    if (id) {
      await here()
        .DELETE("/imports/{import_id}", { params: { path: { import_id: id } } })
        .catch(() => undefined);
    }
  }

  function startByHand(): void {
    byHand.value = true;
    current.value = { ...EMPTY, phase: "proposed" };
    tables.value = [newTable(1)];
  }

  // What was under way when the page was left may have been done before it could be ended.
  onScopeDispose(() => void end().then(() => lookAgain(queries, "samples")));

  return {
    current, name, ofSample, inPlace, realDecimals, uses, lookForUses, startFrom, tables, problem, sending, byHand, isWorking, handIn, readAgain, make, stop,
    correct, begin, startByHand,
  };
}

export type Making = ReturnType<typeof useMaking>;

const EMPTY: Import = {
  id: "", phase: "files", kind: null, files: [], dialect: "sqlite", done: 0, total: 0, tables: [],
  made: [], problems: [], problem_count: 0, sample: "", decimals: [],
};

function plainName(file: string): string {
  return file.replace(/(\.(pack|csv))?\.\w+$/, "").replace(/[^\w .-]+/g, " ").trim();
}
