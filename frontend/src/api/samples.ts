import { useMutation, useQuery, useQueryClient } from "@tanstack/vue-query";
import { computed, type MaybeRefOrGetter, toValue } from "vue";

import { courseAddress, dataOf, done, here, type Schemas } from "./client";
import { keyOf, lookAgain } from "./shown";

/** A sample's name and one of its datasets. */
export interface DatasetName {
  sample: string;
  dataset: string;
}

/** What a page of rows is asked for with. */
export interface RowsWanted {
  table: string;
  sort: string[];
  where: string;
  offset: number;
  limit: number;
}

export type Edit = Schemas["Insert"] | Schemas["Update"] | Schemas["Delete"];

const DATASET = "/samples/{sample}/datasets/{dataset}" as const;

export function useSamples() {
  return useQuery({ queryKey: keyOf("samples"), queryFn: () => dataOf(here().GET("/samples")) });
}

export function useSample(sample: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: keyOf("sample", sample),
    enabled: () => Boolean(toValue(sample)),
    queryFn: () =>
      dataOf(here().GET("/samples/{sample}", { params: { path: { sample: toValue(sample) } } })),
  });
}

/** The names of columns by table, as editors complete them. */
export function columnsByTable(tables: Schemas["Sample"]["tables"]): Record<string, string[]> {
  return Object.fromEntries(
    tables.map((table) => [table.name, table.columns.map((column) => column.name)]),
  );
}

export function useDataset(name: MaybeRefOrGetter<DatasetName>) {
  return useQuery({
    queryKey: keyOf("dataset", name),
    placeholderData: (before) => before,
    enabled: () => Boolean(toValue(name).dataset),
    queryFn: () => dataOf(here().GET(DATASET, { params: { path: toValue(name) } })),
  });
}

export function useRows(
  name: MaybeRefOrGetter<DatasetName>,
  version: MaybeRefOrGetter<number | undefined>,
  wanted: MaybeRefOrGetter<RowsWanted>,
) {
  return useQuery({
    queryKey: keyOf("rows", name, version, wanted),
    enabled: () => toValue(version) !== undefined,
    placeholderData: (before) => before,
    retry: false,
    queryFn: () => {
      const { table, ...query } = toValue(wanted);
      return dataOf(
        here().GET(`${DATASET}/tables/{table}/rows`, {
          params: { path: { ...toValue(name), table }, query },
        }),
      );
    },
  });
}

export function useProfile(
  name: MaybeRefOrGetter<DatasetName>,
  version: MaybeRefOrGetter<number | undefined>,
  table: MaybeRefOrGetter<string>,
) {
  return useQuery({
    queryKey: keyOf("profile", name, version, table),
    enabled: () => toValue(version) !== undefined && Boolean(toValue(table)),
    queryFn: () =>
      dataOf(
        here().GET(`${DATASET}/tables/{table}/profile`, {
          params: { path: { ...toValue(name), table: toValue(table) } },
        }),
      ),
  });
}

export function useShowing(
  name: MaybeRefOrGetter<DatasetName>,
  version: MaybeRefOrGetter<number | undefined>,
) {
  return useQuery({
    queryKey: keyOf("showing", name, version),
    enabled: () => toValue(version) !== undefined,
    placeholderData: (before) => before,
    queryFn: () => dataOf(here().GET(`${DATASET}/showing`, { params: { path: toValue(name) } })),
  });
}

export function useVersions(
  name: MaybeRefOrGetter<DatasetName>,
  version: MaybeRefOrGetter<number | undefined>,
) {
  return useQuery({
    queryKey: keyOf("versions", name, version),
    enabled: () => toValue(version) !== undefined,
    queryFn: () => dataOf(here().GET(`${DATASET}/versions`, { params: { path: toValue(name) } })),
  });
}

export function useVersionDifference(
  name: MaybeRefOrGetter<DatasetName>,
  between: MaybeRefOrGetter<{ older: number; newer: number }>,
) {
  return useQuery({
    queryKey: keyOf("difference", name, between),
    enabled: () => toValue(between).older < toValue(between).newer,
    queryFn: () =>
      dataOf(
        here().GET(`${DATASET}/versions/{older}/to/{newer}`, {
          params: { path: { ...toValue(name), ...toValue(between) } },
        }),
      ),
  });
}

/** Notes something on a table, or on a column where one is named. */
export function useTableNotes(sample: MaybeRefOrGetter<string>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Schemas["TableNote"]) =>
      done(here().PUT("/samples/{sample}/notes", { params: { path: { sample: toValue(sample) } }, body })),
    onSuccess: () => lookAgain(queries, "sample"),
  });
}

/** Gives a query of the history a name. */
export function useRunNames(sample: MaybeRefOrGetter<string>) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: ({ id, name }: { id: number; name: string }) =>
      dataOf(
        here().PUT("/samples/{sample}/queries/{run_id}", {
          params: { path: { sample: toValue(sample), run_id: id } }, body: { name },
        }),
      ),
    onSuccess: () => lookAgain(queries, "tried"),
  });
}

export function useTriedQueries(sample: MaybeRefOrGetter<string>) {
  return useQuery({
    queryKey: keyOf("tried", sample),
    queryFn: () =>
      dataOf(
        here().GET("/samples/{sample}/queries", {
          params: { path: { sample: toValue(sample) } },
        }),
      ),
  });
}

export function fetchPlace(
  name: DatasetName,
  table: string,
  row: number,
  query: { sort: string[]; where: string },
) {
  return dataOf(
    here().GET(`${DATASET}/tables/{table}/rows/{row}/place`, {
      params: { path: { ...name, table, row }, query },
    }),
  );
}

export function fetchParent(name: DatasetName, table: string, row: number, column: string) {
  return dataOf(
    here().GET(`${DATASET}/tables/{table}/rows/{row}/parent`, {
      params: { path: { ...name, table, row }, query: { column } },
    }),
  );
}

export function fetchChildren(name: DatasetName, table: string, row: number) {
  return dataOf(
    here().GET(`${DATASET}/tables/{table}/rows/{row}/children`, {
      params: { path: { ...name, table, row } },
    }),
  );
}

export function fetchSuggestion(name: DatasetName, id: string) {
  return dataOf(here().GET(`${DATASET}/suggestion`, { params: { path: name, query: { id } } }));
}

/** Why an edit was refused, with the cell that it is about. */
export class EditRefused extends Error {
  constructor(
    message: string,
    readonly edit: number,
    readonly table: string,
    readonly column: string,
  ) {
    super(message);
  }
}

export async function sendEdits(name: DatasetName, edits: Edit[]) {
  const answer = await here()
    .POST(`${DATASET}/edits`, { params: { path: name }, body: { edits } })
    .catch(() => {
      throw new Error("The server does not answer. The change was not made; try it again.");
    });
  if (answer.data) return answer.data;
  const said = answer.error as Partial<Schemas["Refused"]> | undefined;
  throw new EditRefused(
    said?.message ?? "The server refused the change.",
    said?.edit ?? 0,
    said?.table ?? "",
    said?.column ?? "",
  );
}

/** What changes a dataset; whatever shows its rows is fetched anew. */
export function useDatasetChanges(name: MaybeRefOrGetter<DatasetName>) {
  const queries = useQueryClient();
  const path = computed(() => toValue(name));

  async function refresh() {
    await lookAgain(
      queries, "dataset", "samples", "exercise", "proof", "judged", "trace", "step-rows",
    );
  }

  const edit = useMutation({
    mutationFn: (edits: Edit[]) => sendEdits(path.value, edits),
    onSuccess: refresh,
  });
  const undo = useMutation({
    mutationFn: () => dataOf(here().POST(`${DATASET}/undo`, { params: { path: path.value } })),
    onSuccess: refresh,
  });
  const redo = useMutation({
    mutationFn: () => dataOf(here().POST(`${DATASET}/redo`, { params: { path: path.value } })),
    onSuccess: refresh,
  });
  const restore = useMutation({
    mutationFn: (version: number) =>
      dataOf(
        here().POST(`${DATASET}/versions/{version}/restore`, {
          params: { path: { ...path.value, version } },
        }),
      ),
    onSuccess: refresh,
  });
  return { edit, undo, redo, restore };
}

export function useQueryTrial(name: MaybeRefOrGetter<DatasetName>) {
  const queries = useQueryClient();
  const run = useMutation({
    mutationFn: (body: Schemas["QueryOn"]) =>
      dataOf(here().POST(`${DATASET}/queries`, { params: { path: toValue(name) }, body })),
    onSuccess: () => lookAgain(queries, "tried"),
  });
  const compare = useMutation({
    mutationFn: (both: Schemas["TwoQueries"]) =>
      dataOf(
        here().POST(`${DATASET}/queries/comparison`, {
          params: { path: toValue(name) },
          body: both,
        }),
      ),
  });
  return { run, compare };
}

/** What is done to a sample as a whole. */
export function useSampleChanges() {
  const queries = useQueryClient();
  const onSuccess = () =>
    lookAgain(queries, "samples", "sample");
  const copy = useMutation({
    mutationFn: ({ sample, name }: { sample: string; name: string }) =>
      dataOf(
        here().POST("/samples/{sample}/copies", {
          params: { path: { sample } },
          body: { name },
        }),
      ),
    onSuccess,
  });
  const rename = useMutation({
    mutationFn: ({ sample, name }: { sample: string; name: string }) =>
      dataOf(
        here().PATCH("/samples/{sample}", { params: { path: { sample } }, body: { name } }),
      ),
    onSuccess,
  });
  const remove = useMutation({
    mutationFn: async (sample: string) => {
      const { error } = await here().DELETE("/samples/{sample}", {
        params: { path: { sample } },
      });
      if (error) throw new Error((error as { message: string }).message);
    },
    onSuccess,
  });
  const addDataset = useMutation({
    mutationFn: ({ sample, ...body }: { sample: string } & Schemas["NewDataset"]) =>
      dataOf(
        here().POST("/samples/{sample}/datasets", { params: { path: { sample } }, body }),
      ),
    onSuccess,
  });
  const removeDataset = useMutation({
    mutationFn: async (name: DatasetName) => {
      const { error } = await here().DELETE(DATASET, { params: { path: name } });
      if (error) throw new Error((error as { message: string }).message);
    },
    onSuccess,
  });
  return { copy, rename, remove, addDataset, removeDataset };
}

export type ExportFormat = "pack" | "csv" | "script" | "database";

export function exportAddress(name: DatasetName, format: ExportFormat): string {
  const query = new URLSearchParams({ format, dataset: name.dataset });
  return courseAddress(`/samples/${encodeURIComponent(name.sample)}/export?${query}`);
}
