import { useSearchParams } from "react-router";

/** What a list is narrowed to, as it stands in the address bar; what is changed begins at the first page again. */
export function useFilters<Name extends string>(...names: Name[]) {
  const [query, setQuery] = useSearchParams();
  const filters = Object.fromEntries(names.map((name) => [name, query.get(name) ?? ""])) as Record<Name, string>;
  const set = (changed: Partial<Record<Name | "cursor", string>>) =>
    setQuery(Object.fromEntries(Object.entries({ ...filters, ...changed }).filter((one): one is [string, string] => Boolean(one[1]))));
  return {
    filters,
    cursor: query.get("cursor") ?? "",
    narrowed: names.some((name) => filters[name]),
    set,
    clear: () => setQuery({}),
  };
}
