import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import type { Plugin } from 'vite'

const require = createRequire(import.meta.url)

/** One font file of the build: its family, where it is, and the characters it has. */
interface FontFile {
  family: string
  path: string
  /** A unicode-range (CSS Fonts 4 §4.5). */
  characters: string
}

/** The subsets of a package and their characters, in the order in which they are tried. */
function subsets(name: string): [string, string][] {
  const ranges = readFileSync(require.resolve(`@fontsource-variable/${name}/unicode.json`), 'utf8')
  return Object.entries<string>(JSON.parse(ranges)).map(([subset, characters]) => [
    `${name}-${subset.replace(/[[\]]/g, '')}-wght-normal.woff2`,
    characters,
  ])
}

/**
 * Writes fonts.json beside the built interface, so that the server sets letters
 * in the same fonts without reading style sheets. Families are given as
 * package and family, in the order in which they are tried.
 */
export function fontManifest(families: Record<string, string>): Plugin {
  return {
    name: 'font-manifest',
    apply: 'build',
    generateBundle(_, bundle) {
      const built = new Map(
        Object.values(bundle).flatMap((file) =>
          file.type === 'asset' ? file.names.map((name) => [name, file.fileName] as const) : [],
        ),
      )
      const files: FontFile[] = []
      for (const [name, family] of Object.entries(families)) {
        for (const [file, characters] of subsets(name)) {
          const path = built.get(file)
          if (path) files.push({ family, path, characters })
        }
      }
      if (files.length === 0) this.error('no font of the manifest is part of the build')
      this.emitFile({ type: 'asset', fileName: 'fonts.json', source: JSON.stringify(files, null, 1) })
    },
  }
}
