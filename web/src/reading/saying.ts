/** How a line is right, and what the reader had before them. */
export interface Saying {
  key: string
  seen: string
  text: string
}

const mostAtOnce = 50
const mostCharacters = 15_000

/** What is sent in one request each: the server takes little from strangers. There is always one. */
export function batches(sayings: Saying[]): Saying[][] {
  const parts: Saying[][] = [[]]
  let size = 0
  for (const saying of sayings) {
    const more = saying.seen.length + saying.text.length
    const last = parts.at(-1)!
    if (last.length === mostAtOnce || (last.length && size + more > mostCharacters)) {
      parts.push([saying])
      size = more
      continue
    }
    last.push(saying)
    size += more
  }
  return parts
}
