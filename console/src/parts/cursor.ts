/** The cursor in a link to another page. */
export function cursorOf(link: string | null): string {
  return link ? (new URL(link, "http://service.example").searchParams.get("cursor") ?? "") : "";
}
