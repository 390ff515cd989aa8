import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useReducer } from "react";

import { answerLink, createInBooks, linkCountsQuery, type LinkKind, questionsQuery, undoLink } from "../../api/links";
import type { Suggestion } from "../../api/types";
import { answerOf, go, START, wantsMore } from "./machine";

/** The question in front, and what can be done about it; the next is there before the answer has come back. */
export function useQuestions(workspace: string, bridge: string, kind: LinkKind) {
  const queries = useQueryClient();
  const [going, step] = useReducer(go, START);
  const more = useQuery({ ...questionsQuery(workspace, bridge, kind, going.reached), enabled: wantsMore(going) });
  useEffect(() => {
    if (more.data) step({ type: "fetched", questions: more.data });
  }, [more.data]);
  const counted = () => queries.invalidateQueries({ queryKey: linkCountsQuery(workspace, bridge, kind).queryKey });
  const restart = (forget: boolean) => {
    queries.removeQueries({ queryKey: [workspace, "links", bridge, kind, "questions"] });
    step({ type: "again", forget });
    void counted();
  };
  const answering = useMutation({
    mutationFn: ({ key, suggestion }: { key: string; suggestion: Suggestion | null }) =>
      answerLink(workspace, bridge, kind, answerOf(key, suggestion)),
    onMutate: () => step({ type: "done" }),
    onSettled: counted,
    onError: () => restart(true),
  });
  const creating = useMutation({
    mutationFn: (key: string) => createInBooks(workspace, bridge, kind, key),
    onSuccess: () => {
      step({ type: "done" });
      void counted();
    },
  });
  const undoing = useMutation({ mutationFn: () => undoLink(workspace, bridge, kind), onSuccess: () => restart(true) });
  return {
    question: going.waiting[0],
    passed: going.passed,
    waiting: !going.waiting.length && (more.isFetching || wantsMore(going)) && !more.isError,
    failure: more.error ?? answering.error ?? creating.error ?? undoing.error,
    busy: creating.isPending || undoing.isPending,
    begin: () => restart(false),
    take: (key: string, suggestion: Suggestion | null) => answering.mutate({ key, suggestion }),
    create: (key: string) => creating.mutate(key),
    pass: () => step({ type: "passed" }),
    undo: () => undoing.mutate(),
  };
}
