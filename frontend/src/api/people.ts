import { useMutation, useQuery, useQueryClient } from "@tanstack/vue-query";

import { dataOf, done, here, type Schemas, site } from "./client";
import { keyOf, lookAgain } from "./shown";

export function useLearners() {
  return useQuery({ queryKey: keyOf("learners"), queryFn: () => dataOf(here().GET("/learners")) });
}

export function useCourse() {
  return useQuery({ queryKey: keyOf("course"), queryFn: () => dataOf(here().GET("/course")) });
}

export function useBrowsers() {
  return useQuery({ queryKey: keyOf("browsers"), queryFn: () => dataOf(site.GET("/api/browsers")) });
}

export function useLinkEvents() {
  return useQuery({
    queryKey: keyOf("link-events"), queryFn: () => dataOf(site.GET("/api/link-events")),
  });
}

/** What changes a course and who is in it; whatever shows them is fetched anew. */
export function usePeopleChanges() {
  const queries = useQueryClient();
  const onSuccess = () =>
    lookAgain(queries, "learners", "course", "about", "exercises", "exercise");
  const changeCourse = useMutation({
    mutationFn: (body: Schemas["CourseForm"]) => dataOf(here().PUT("/course", { body })),
    onSuccess,
  });
  const archive = useMutation({
    mutationFn: (wanted: boolean) => dataOf(here().POST("/course/archived", { body: { wanted } })),
    onSuccess,
  });
  const setJoinCode = useMutation({
    mutationFn: (wanted: boolean) => dataOf(here().POST("/course/join-code", { body: { wanted } })),
    onSuccess,
  });
  const invite = useMutation({ mutationFn: () => dataOf(here().POST("/course/instructors")) });
  const removeInstructor = useMutation({
    mutationFn: (id: number) =>
      dataOf(
        here().DELETE("/course/instructors/{person_id}", { params: { path: { person_id: id } } }),
      ),
    onSuccess,
  });
  const makeLinks = useMutation({
    mutationFn: (ids: number[]) => dataOf(here().POST("/learners/links", { body: { ids } })),
    onSuccess,
  });
  const makeLink = useMutation({
    mutationFn: (id: number) =>
      dataOf(here().POST("/learners/{learner_id}/link", { params: { path: { learner_id: id } } })),
    onSuccess,
  });
  const changeLearner = useMutation({
    mutationFn: ({ id, body }: { id: number; body: Schemas["LearnerForm"] }) =>
      done(here().PUT("/learners/{learner_id}", { params: { path: { learner_id: id } }, body })),
    onSuccess,
  });
  const removeLearner = useMutation({
    mutationFn: ({ id, withAnswers }: { id: number; withAnswers: boolean }) =>
      done(
        here().DELETE("/learners/{learner_id}", {
          params: { path: { learner_id: id }, query: { with_answers: withAnswers } },
        }),
      ),
    onSuccess,
  });
  const extend = useMutation({
    mutationFn: ({ id, sheet, closes }: { id: number; sheet: string; closes: string | null }) =>
      done(
        here().PUT("/learners/{learner_id}/extensions/{sheet}", {
          params: { path: { learner_id: id, sheet } },
          body: { closes },
        }),
      ),
    onSuccess,
  });
  const takeRoster = useMutation({
    mutationFn: ({ id, body }: { id: string; body: Schemas["TakeRoster"] }) =>
      dataOf(
        here().POST("/rosters/{import_id}/take", { params: { path: { import_id: id } }, body }),
      ),
    onSuccess,
  });
  return {
    changeCourse, archive, setJoinCode, invite, removeInstructor, makeLinks, makeLink, changeLearner,
    removeLearner, extend, takeRoster,
  };
}

export function lookAtRoster(id: string) {
  return dataOf(here().POST("/rosters/{import_id}/look", { params: { path: { import_id: id } } }));
}

/** The address that a link's token stands for, to be handed to somebody. */
export function linkAddress(token: string): string {
  return `${location.origin}/links/${token}`;
}

/** The address at which a course is joined. */
export function joinAddress(code: string): string {
  return `${location.origin}/join/${code}`;
}
