import createClient, { type Client, type Middleware } from "openapi-fetch";
import { ref } from "vue";

import type { components, paths } from "./schema";

export type Schemas = components["schemas"];

/** What the addresses of a course begin with; which course is known from the page's own address. */
const COURSE = "/api/courses/";

type WithoutCourse<Parameters> = Parameters extends { path: infer Path }
  ? Omit<Parameters, "path"> &
      (Exclude<keyof Path, "course"> extends never
        ? { path?: never }
        : { path: Omit<Path, "course"> })
  : Parameters;

type Operation<Given> = Given extends { parameters: infer Parameters }
  ? Omit<Given, "parameters"> & { parameters: WithoutCourse<Parameters> }
  : Given;

/** The addresses inside a course, as they are written here: without what every one begins with. */
export type CoursePaths = {
  [Path in keyof paths as Path extends `/api/courses/{course}${infer Rest}` ? Rest : never]: {
    [Method in keyof paths[Path]]: Operation<paths[Path][Method]>;
  };
};

/** Whom the pages are told of what the server says about who is signed in. */
export const session = {
  guard: "",
  ended: () => {},
  outdated: () => {},
};

const guarded: Middleware = {
  onRequest({ request }) {
    if (request.method !== "GET" && session.guard)
      request.headers.set("X-Jentrow-Guard", session.guard);
    return request;
  },
  onResponse({ response }) {
    if (response.status === 401 && !response.url.endsWith("/sign-in")) session.ended();
    if (response.status === 403) session.outdated();
    return response;
  },
};

function made<Paths extends object>(baseUrl: string): Client<Paths> {
  const client = createClient<Paths>({ baseUrl });
  client.use(guarded);
  return client;
}

/** What belongs to no course. */
export const site = made<paths>("/");

/** The course that the pages are about; empty where they are about none. */
export const openCourse = ref("");
let inCourse: Client<CoursePaths> | undefined;

/** Says which course the pages are about from here on. */
export function enterCourse(slug: string): void {
  if (slug === openCourse.value) return;
  openCourse.value = slug;
  inCourse = undefined;
}

/** An address of the course at hand, for links and events. */
export function courseAddress(path: string): string {
  return `${COURSE}${encodeURIComponent(openCourse.value)}${path}`;
}

/** What belongs to the course at hand. */
export function here(): Client<CoursePaths> {
  inCourse ??= made<CoursePaths>(courseAddress(""));
  return inCourse;
}

/** What the server said in words, or that it did not answer. */
export class RequestProblem extends Error {
  constructor(
    message: string,
    /** The status of the answer; 0 where there was none. */
    readonly status = 0,
  ) {
    super(message);
  }
}

interface Answer<T> {
  data?: T;
  error?: unknown;
  response?: Response;
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
    throw new RequestProblem(
      said?.message ?? "The server could not answer this.",
      answer.response?.status,
    );
  }
  return answer.data;
}

/** Waits for a change that has no answer but that it was done. */
export async function done(asked: Promise<Answer<unknown>>): Promise<void> {
  await dataOf(asked.then((answer) => (answer.error ? answer : { ...answer, data: true })));
}
