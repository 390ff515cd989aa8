/** The filters of the documents list, as they stand in the address bar. */

export interface Filters {
  search: string;
  kind: string;
  state: string[];
  cause: string;
  from: string;
  to: string;
  differing: boolean;
  run: string;
  outcome: string;
  sort: string;
  cursor: string;
}

export const NO_FILTERS: Filters = {
  search: "",
  kind: "",
  state: [],
  cause: "",
  from: "",
  to: "",
  differing: false,
  run: "",
  outcome: "",
  sort: "-placed",
  cursor: "",
};

export function readFilters(query: URLSearchParams): Filters {
  const text = (name: string) => query.get(name) ?? "";
  return {
    search: text("search"),
    kind: text("kind"),
    state: query.getAll("state"),
    cause: text("cause"),
    from: text("from"),
    to: text("to"),
    differing: query.get("differing") === "true",
    run: text("run"),
    outcome: text("outcome"),
    sort: text("sort") || NO_FILTERS.sort,
    cursor: text("cursor"),
  };
}

/** The address of `filters`; what stands at its default is left out. */
export function writeFilters(filters: Filters): URLSearchParams {
  const query = new URLSearchParams();
  for (const [name, value] of Object.entries(filters)) {
    if (Array.isArray(value)) value.forEach((one) => query.append(name, one));
    else if (value && value !== NO_FILTERS[name as keyof Filters]) query.set(name, String(value));
  }
  return query;
}

/** A change of any filter begins at the first page again. */
export function changed(filters: Filters, change: Partial<Filters>): Filters {
  return { ...filters, cursor: "", ...change };
}

/** The filters in the API's own words. */
export function asked(filters: Filters): Record<string, string | readonly string[] | undefined> {
  return {
    search: filters.search,
    kind: filters.kind,
    state: filters.state,
    cause: filters.cause,
    placed_from: filters.from,
    placed_to: filters.to,
    differing: filters.differing ? "true" : undefined,
    run: filters.run,
    outcome: filters.outcome,
    sort: filters.sort,
    cursor: filters.cursor,
  };
}

export function active(filters: Filters): boolean {
  return [...writeFilters({ ...filters, cursor: "", sort: NO_FILTERS.sort }).keys()].length > 0;
}
