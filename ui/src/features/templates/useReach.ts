import { keepPreviousData } from "@tanstack/react-query";
import { $api, type Schemas } from "../../api/client";

/** Whom a wording reaches. Of very many people some are counted at a time. */
export function useReach(body: Schemas["Input"]) {
  return $api.useQuery(
    "post",
    "/api/templates/reach",
    { body },
    {
      placeholderData: keepPreviousData,
      staleTime: 30_000,
      refetchInterval: (q) => (q.state.data?.running ? 20 : false),
    },
  ).data;
}
