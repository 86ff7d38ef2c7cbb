<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '@/api/client'
import { type FloorViewName, floorViews } from './floorViews'

/** The plan of a site, drawn from its bins to scale. Aisles lie across the page, so that long ones fit. */
const props = defineProps<{
  plan: Schemas['StockFloorPlan']
  path?: { x: number; y: number }[]
  walks?: boolean
  /** What the colours of the bins say, and what that needs besides the plan. */
  view?: FloorViewName
  uses?: Schemas['StockBinUse'][]
  /** What the colours say instead of a view: a step from 0 to 5, or -1 for a bin that is none of it, and its words. */
  shade?: (bin: Schemas['StockFloorBin']) => { step: number; says: string }
}>()
const emit = defineEmits<{ open: [id: number] }>()

const ramp = ['var(--full0)', 'var(--full1)', 'var(--full2)', 'var(--full3)', 'var(--full4)', 'url(#full)']
const view = computed(() => floorViews[props.view ?? 'fullness'])
const tall = 78
const extent = computed(() => {
  const ys = [...props.plan.cross, ...props.plan.bins.map((b) => b.y)]
  return { low: Math.min(...ys), high: Math.max(...ys) }
})
/** Metres down the aisle become pixels across; each aisle has its own band. */
const across = (y: number) => 52 + ((y - extent.value.low) / Math.max(1, extent.value.high - extent.value.low)) * 826
const aisleAt = (x: number) => {
  const a = props.plan.aisles
  if (!a.length) return 0
  const i = a.findIndex((v) => v.x >= x)
  if (i <= 0)
    return i === 0
      ? -Math.max(0, ((a[0]?.x ?? 0) - x) / 4) * 0.5
      : a.length - 1 + Math.min(0.5, (x - (a.at(-1)?.x ?? 0)) / 8)
  const left = a[i - 1]!.x
  return i - 1 + (x - left) / (a[i]!.x - left)
}
const down = (x: number) => 46 + aisleAt(x) * tall
const height = computed(() => props.plan.aisles.length * tall + 24)
const levels = computed(() => Math.max(1, ...props.plan.bins.map((b) => b.level ?? 1)))
const used = computed(() => new Map((props.uses ?? []).map((u) => [u.id, u])))
const bins = computed(() =>
  props.plan.bins.map((bin) => {
    const b = { ...bin, ...used.value.get(bin.id) }
    const upper = b.code.endsWith('A')
    const width = Math.min(15, 54 / levels.value)
    return {
      ...b,
      px: across(b.y) - (levels.value * (width + 1)) / 2 + ((b.level ?? 1) - 1) * (width + 1),
      py: down(b.x) + (upper ? -31 : 12),
      width,
      ...colourOf(b),
    }
  }),
)
function colourOf(b: Schemas['StockFloorBin']) {
  const shaded = props.shade?.(b)
  if (shaded) {
    const none = shaded.step < 0
    return { fill: none ? 'none' : ramp[shaded.step], says: `${b.code}: ${shaded.says}`, marked: false }
  }
  const more = b.count_request && props.view !== 'count' ? ', to be counted' : ''
  return {
    fill: ramp[view.value.step(b)],
    says: `${b.code}: ${b.units} units, ${view.value.says(b)}${more}`,
    marked: b.count_request,
  }
}
/** The bin that is in the tab order; arrows walk to the next in their direction, Enter opens. */
const at = ref(0)
const directions: Record<string, [x: number, y: number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
}
function walk(e: KeyboardEvent, from: number) {
  const b = bins.value[from]
  if (!b) return
  if (e.key === 'Enter' || e.key === ' ') emit('open', b.id)
  else if (directions[e.key]) focusNext(e, b, directions[e.key]!)
  else return
  e.preventDefault()
}
/** Focuses the nearest bin that lies in a direction: along it first, and little aside. */
function focusNext(e: KeyboardEvent, b: { px: number; py: number }, [dx, dy]: [number, number]) {
  const cost = (o: { px: number; py: number }) => {
    const [x, y] = [o.px - b.px, o.py - b.py]
    const along = x * dx + y * dy
    return along < 1 ? Infinity : along + 4 * Math.abs(x * dy + y * dx)
  }
  const next = bins.value.reduce((best, o, i) => (cost(o) < cost(bins.value[best]!) ? i : best), 0)
  if (cost(bins.value[next]!) === Infinity) return
  const all = (e.currentTarget as SVGElement).ownerSVGElement!.querySelectorAll<SVGElement>('[data-bin]')
  all[next]?.focus()
}
const line = (p: { x: number; y: number }[]) =>
  p.map((q, i) => `${i ? 'L' : 'M'}${across(q.y).toFixed(1)} ${down(q.x).toFixed(1)}`).join('')
const walkLines = computed(() =>
  props.walks
    ? props.plan.walks
        .filter((w) => w.state === 'walking')
        .map((w) => ({ ...w, d: line(w.path as { x: number; y: number }[]) }))
    : [],
)
const edge = computed(() => props.plan.locations.filter((p) => p.kind !== 'bin'))
</script>

<template>
  <svg :viewBox="`0 0 924 ${height}`" class="map" role="group" :aria-label="`Plan of ${plan.site}`">
    <defs>
      <pattern id="full" width="5" height="5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect width="5" height="5" fill="var(--full5)" />
        <path d="M0 0v5" stroke="var(--stripe)" stroke-width="1.6" />
      </pattern>
    </defs>
    <g v-for="a in plan.aisles" :key="a.code">
      <text x="4" :y="down(a.x) + 6" font-size="18" font-weight="700" fill="var(--ink)">{{ a.code }}</text>
      <path :d="`M30 ${down(a.x)}H900`" stroke="var(--aisle)" stroke-dasharray="2 5" />
    </g>
    <path
      v-for="c in plan.cross"
      :key="c"
      :d="`M${across(c)} 18V${height - 12}`"
      stroke="var(--aisle)"
      stroke-dasharray="2 5"
    />
    <rect
      v-for="(b, i) in bins"
      :key="b.id"
      :x="b.px"
      :y="b.py"
      :width="b.width"
      height="19"
      rx="2"
      :fill="b.fill"
      :stroke="b.marked ? 'var(--stop-text)' : 'var(--bin-edge)'"
      :stroke-width="b.marked ? 2 : 0.6"
      class="bin"
      role="button"
      :tabindex="i === at ? 0 : -1"
      :aria-label="b.says"
      :data-bin="b.code"
      @click="emit('open', b.id)"
      @focus="at = i"
      @keydown="walk($event, i)"
    >
      <title>{{ b.says }}</title>
    </rect>
    <path v-if="path" :d="line(path)" class="walk" />
    <g v-for="w in walkLines" :key="w.id">
      <path :d="w.d" class="walk" />
      <g v-if="w.x != null && w.y != null">
        <circle :cx="across(w.y)" :cy="down(w.x)" r="12" fill="var(--act)" stroke="var(--sheet)" stroke-width="3" />
        <text :x="across(w.y)" :y="down(w.x) + 5" text-anchor="middle" font-size="12" font-weight="700" fill="#fff">
          {{ w.person.slice(0, 1) }}
        </text>
      </g>
    </g>
    <g
      v-for="p in edge"
      :key="p.id"
      class="bin"
      role="button"
      tabindex="0"
      :aria-label="`${p.code}: ${p.units} units`"
      @click="emit('open', p.id)"
      @keydown.enter.prevent="emit('open', p.id)"
    >
      <title>{{ p.code }}: {{ p.units }} units</title>
      <circle
        :cx="across(p.y)"
        :cy="down(p.x)"
        r="5.5"
        :fill="Number(p.units) > 0 ? 'var(--lamp)' : 'var(--sheet)'"
        stroke="var(--mute)"
      />
      <text :x="across(p.y)" :y="down(p.x) + 17" text-anchor="middle" font-size="10.5" fill="var(--mute)">
        {{ p.code.split(' ')[0] === 'Dock' ? p.code : p.code.split(' ')[0] }}
      </text>
    </g>
  </svg>
</template>

<style scoped>
.map {
  width: 100%;
  display: block;
}
.bin {
  cursor: pointer;
}
.bin:hover {
  stroke: var(--act);
  stroke-width: 2;
}
.bin:focus-visible {
  outline: 2px solid var(--lamp);
  stroke: var(--ink);
  stroke-width: 3;
}
.walk {
  fill: none;
  stroke: var(--act);
  stroke-width: 2.5;
  stroke-dasharray: 1 6;
  stroke-linecap: round;
}
</style>
