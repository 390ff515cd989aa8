import { useEffect, useState } from "react";

const SETTLED_MS = 500;

/** A text once nobody has typed for a moment: an end or the service is asked about it each time. */
export function useSettled(text: string): string {
  const [settled, setSettled] = useState(text);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(text), SETTLED_MS);
    return () => clearTimeout(timer);
  }, [text]);
  return settled;
}
