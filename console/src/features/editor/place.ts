/** Where a position of a rulebook's text stands: the keys that lead there, and what is being written. */
export interface Place {
  /** Keys from the top; an entry of a list is "-". At a value its own key comes last. */
  path: string[];
  at: "key" | "value";
  /** What stands there so far, and where it begins. */
  word: string;
  from: number;
}

interface Level {
  /** How far in a block stands; a pair of brackets has none. */
  indent?: number;
  open?: "{" | "[";
  key?: string | undefined;
}

const KEY = /("(?:[^"\\]|\\.)*"|'(?:[^']|'')*'|[^\s#:{}[\],&*!|>'"%@`-][^:#{}[\],]*?)[ \t]*:(?=\s|$)/y;
const plain = (word: string) => word.trim().replace(/^(["'])(.*)\1$/s, "$2").replace(/^["']/, "");

/**
 * Read a text up to a position. It is read leniently, line by line, for a text that is being written is seldom whole:
 * blocks go by their indent, what stands in brackets by these.
 */
export function placeAt(text: string, position: number): Place {
  const levels: Level[] = [];
  const lines = text.slice(0, position).split("\n");
  let start = 0;
  let word = { from: position, atKey: true };
  for (const [number, line] of lines.entries()) {
    const last = number === lines.length - 1;
    if (last || line.trim().replace(/^#.*/, "")) word = readLine(line, start, levels, last);
    start += line.length + 1;
  }
  const innermost = levels.at(-1);
  const inGroup = innermost?.open === "{" && innermost.key === undefined;
  const path = levels.flatMap((level) => (level.key !== undefined ? [level.key] : level.open === "[" ? ["-"] : []));
  const at = inGroup || (word.atKey && !innermost?.open) ? "key" : "value";
  return { path, at, word: plain(text.slice(word.from, position)), from: word.from };
}

function readLine(line: string, start: number, levels: Level[], last: boolean): { from: number; atKey: boolean } {
  let here = 0;
  let atKey = false;
  if (!levels.at(-1)?.open) {
    here = line.length - line.trimStart().length;
    // An empty line may go on with the block above, however far in it is; where the cursor stands says which.
    leave(levels, last && !line.trim() ? line.length : here, line[here] === "-");
    while (/^-(\s|$)/.test(line.slice(here))) {
      levels.push({ indent: here, key: "-" });
      here += 1 + (/^\s+/.exec(line.slice(here + 1))?.[0].length ?? 0);
    }
    KEY.lastIndex = here;
    const key = KEY.exec(line);
    if (key) {
      levels.push({ indent: here, key: plain(key[1] ?? "") });
      here = KEY.lastIndex;
    } else {
      atKey = true;
    }
  }
  return { from: start + readValue(line, here, levels), atKey };
}

/** Leave the blocks that a line of this indent is no part of; a list may stand as far in as its key. */
function leave(levels: Level[], indent: number, isItem: boolean) {
  while (levels.length) {
    const top = levels.at(-1);
    const stays = (top?.indent ?? 0) < indent || (isItem && top?.indent === indent && top.key !== "-");
    if (stays) return;
    levels.pop();
  }
}

/** Read a value with the brackets in it; answers where the last word of the line begins. */
function readValue(line: string, begin: number, levels: Level[]): number {
  let from = begin;
  for (let here = begin; here < line.length; here++) {
    const sign = line[here] ?? "";
    const top = levels.at(-1);
    if (sign === '"' || sign === "'") {
      const end = line.indexOf(sign, here + 1);
      if (end < 0) return here;
      here = end;
    } else if (sign === "#" && /\s/.test(line[here - 1] ?? " ")) {
      return line.length;
    } else if ((sign === "{" || sign === "[") && (top?.open || !line.slice(begin, here).trim())) {
      levels.push({ open: sign });
      from = here + 1;
    } else if (top?.open && (sign === "}" || sign === "]")) {
      levels.pop();
      from = here + 1;
    } else if (top?.open && sign === ",") {
      if (top.open === "{") top.key = undefined;
      from = here + 1;
    } else if (top?.open === "{" && top.key === undefined && sign === ":" && /\s|$/.test(line[here + 1] ?? " ")) {
      top.key = plain(line.slice(from, here));
      from = here + 1;
    }
  }
  return from + (/^\s*/.exec(line.slice(from))?.[0].length ?? 0);
}
