// Fails when what a first visit loads grows beyond what was agreed. It counts
// the script and style of an entry and its first view, as sent: compressed.
import { readFileSync } from 'node:fs'
import { gzipSync } from 'node:zlib'

const manifest = JSON.parse(readFileSync('dist/.vite/manifest.json', 'utf8'))

/** The files that a chunk needs before it can run. */
function files(key, into = new Set()) {
  const chunk = manifest[key]
  if (into.has(chunk.file)) return into
  into.add(chunk.file)
  for (const style of chunk.css ?? []) into.add(style)
  for (const other of chunk.imports ?? []) files(other, into)
  return into
}

const visits = [
  { name: 'first load', chunks: ['index.html', 'src/views/Today.vue'], limit: 150 },
  { name: 'personal page', chunks: ['own.html'], limit: 60 },
  { name: 'page of a reading', chunks: ['reading.html'], limit: 62 },
]

for (const { name, chunks, limit } of visits) {
  const loaded = chunks.reduce((all, chunk) => files(chunk, all), new Set())
  const size =
    [...loaded].reduce((sum, file) => sum + gzipSync(readFileSync(`dist/${file}`)).length, 0) / 1000
  console.log(`${name}: ${size.toFixed(1)} kB of ${limit} kB, ${loaded.size} files`)
  if (process.argv.includes('--files'))
    for (const f of loaded)
      console.log(`  ${(gzipSync(readFileSync(`dist/${f}`)).length / 1000).toFixed(1)} ${f}`)
  if (size > limit) process.exitCode = 1
}
