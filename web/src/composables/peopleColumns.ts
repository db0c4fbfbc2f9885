import type { Schemas } from '@/api/client'

export type Order = NonNullable<Schemas['Query']['order']>

/** A column of the list of people, and by what it is sorted. */
export interface Column {
  key: string
  words: string
  order?: Order
}

export const columns: Column[] = [
  { key: 'roles', words: 'Roles' },
  { key: 'unit', words: 'Unit', order: 'unit' },
  { key: 'addresses', words: 'Can be reached by' },
  { key: 'reads', words: 'Reads', order: 'language' },
  { key: 'groups', words: 'Groups' },
  { key: 'reached', words: 'Last reached', order: 'reached' },
  { key: 'status', words: 'Status', order: 'status' },
  { key: 'id', words: 'Id' },
]
