<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { api, ask, type Schemas } from '@/api/client'
import type { Column } from '@/parts/columns'
import QueryView from '@/parts/QueryView.vue'
import SheetTable from '@/parts/SheetTable.vue'
import { plural, when } from '@/parts/words'

/** How the house does: what runs, what waits, and whether it is sealed and backed up. */
const house = useQuery({
  queryKey: ['house'],
  queryFn: () => ask(api.GET('/api/v1/house')),
  refetchInterval: 30_000,
})
const units = ['B', 'kB', 'MB', 'GB', 'TB']
function size(bytes: number) {
  const at = Math.min(units.length - 1, Math.max(0, Math.floor(Math.log10(Math.max(1, bytes)) / 3)))
  return `${(bytes / 1000 ** at).toFixed(at ? 1 : 0)} ${units[at]}`
}
const many = (n: number) => n.toLocaleString('en')
interface Line {
  what: string
  says: string
  late?: boolean
}
const day = 24 * 3600 * 1000
const old = (t: string | null | undefined) => !t || Date.now() - Date.parse(t) > day
function reportsSay(h: Schemas['HouseState']) {
  if (h.reports === 'away') return 'the standby does not answer'
  return h.reports_behind < 1
    ? 'read at a standby that has all'
    : `read at a standby that is ${Math.round(h.reports_behind)} s behind`
}
const lines = computed<Line[]>(() => {
  const h = house.data.value
  if (!h) return []
  const unsealed = h.moves - h.sealed
  return [
    { what: 'Program', says: `${h.program.slice(0, 18) || 'a revision that it does not know'}, ${h.go}` },
    {
      what: 'Schema',
      says: `version ${h.schema}${h.schema === h.needs_schema ? '' : `, and the program needs ${h.needs_schema}`}`,
      late: h.schema !== h.needs_schema,
    },
    { what: 'Database', says: `PostgreSQL ${h.database_server}, ${size(h.database_bytes)}` },
    { what: 'Ledger', says: `${many(h.moves)} moves in ${many(h.postings)} postings` },
    {
      what: 'Seals',
      says: unsealed
        ? `${many(unsealed)} moves are not sealed yet`
        : `all of them are sealed; the newest seal begins with ${h.head.slice(0, 16) || 'nothing'}`,
      late: unsealed > 1000,
    },
    { what: 'Past instants', says: h.snapshot ? `the newest snapshot is of ${when(h.snapshot)}` : 'no snapshot yet' },
    {
      what: 'Last backup',
      says: h.backup ? `${when(h.backup)}, ${size(h.backup_bytes)}, ${h.backup_file}` : 'none was made',
      late: old(h.backup),
    },
    {
      what: 'Schedules',
      says: h.schedules_stopped
        ? `${h.schedules_stopped} of ${h.schedules} stopped because they failed`
        : `${h.schedules}, and none stopped`,
      late: h.schedules_stopped > 0,
    },
    ...h.outbox.map((c) => ({
      what: `Outbox, ${c.name}`,
      says: `${c.waiting === 1 ? 'one waits' : `${c.waiting} wait`}, the oldest since ${when(c.oldest!)}`,
      late: Date.now() - Date.parse(c.oldest!) > 3600 * 1000,
    })),
    ...(h.reports === 'here'
      ? []
      : [{ what: 'Reports', says: reportsSay(h), late: h.reports === 'away' || h.reports_behind > 60 }]),
    {
      what: 'People',
      says: `${h.people === 1 ? 'one works' : `${h.people} work`} here, signed on at ${plural(h.sessions, 'device')}`,
    },
  ]
})
const columns: Column<Line>[] = [
  { name: 'what', label: 'What', of: (l) => l.what },
  { name: 'says', label: 'How it is', of: (l) => l.says, late: (l) => !!l.late },
]
type Table = Schemas['HouseTable']
const tables: Column<Table>[] = [
  { name: 'name', label: 'Table', of: (t) => t.name, mono: true },
  { name: 'rows', label: 'Rows, about', of: (t) => many(t.rows), right: true, mono: true },
  { name: 'bytes', label: 'With its indexes', of: (t) => size(t.bytes), right: true, mono: true },
]
</script>

<template>
  <div class="page">
    <h1>How the house does</h1>
    <p class="mute">
      Read anew every half a minute. What is red wants looking after. <router-link to="/people">People</router-link>
    </p>
    <QueryView :query="house">
      <template #default="{ data }">
        <div class="halves">
          <SheetTable data-house :columns="columns" :rows="lines" :row-key="(l) => l.what" />
          <SheetTable :columns="tables" :rows="data.tables" :row-key="(t) => t.name" />
        </div>
      </template>
    </QueryView>
  </div>
</template>

<style scoped>
.halves {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(380px, 1fr));
  gap: 20px;
  align-items: start;
}
</style>
