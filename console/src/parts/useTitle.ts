import { useEffect } from "react";

/** What the browser calls the page. */
export function useTitle(title: string) {
  useEffect(() => {
    document.title = `${title} · Inkwell Bridge`;
  }, [title]);
}
