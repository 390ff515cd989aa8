/** The five roles, each of which may do what the ones before it may. */
export const ROLES = [
  ["see", "See"],
  ["operate", "Operate"],
  ["edit", "Edit rules"],
  ["publish", "Publish rules"],
  ["own", "Own"],
] as const;
