import createClient from "openapi-fetch";

import type { components, paths } from "./schema";

export type Schemas = components["schemas"];

export const client = createClient<paths>({ baseUrl: "/" });

/** What the server said in words, or that it did not answer. */
export class RequestProblem extends Error {}

interface Answer<T> {
  data?: T;
  error?: unknown;
}

/** The data of an answer; a refusal becomes an error with the server's own words. */
export async function dataOf<T>(asked: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await asked;
  } catch {
    throw new RequestProblem("The server does not answer. Is Jentrow still running?");
  }
  if (answer.data === undefined) {
    const said = answer.error as { message?: string } | undefined;
    throw new RequestProblem(said?.message ?? "The server could not answer this.");
  }
  return answer.data;
}
