<script setup lang="ts">
import { BarChart, LineChart } from 'echarts/charts'
import { GridComponent, LegendComponent, MarkLineComponent, TooltipComponent } from 'echarts/components'
import { use } from 'echarts/core'
import { SVGRenderer } from 'echarts/renderers'
import { computed } from 'vue'
import VChart from 'vue-echarts'
import { palette } from '@/theme/theme'
import { dayOf, timeOf } from '../clock'
import type { Chart, Series } from './chart'

/** Draws a picture of figures. It is fetched only where one is shown. */
const props = defineProps<{ chart: Chart }>()
use([BarChart, LineChart, GridComponent, LegendComponent, MarkLineComponent, TooltipComponent, SVGRenderer])

const still = window.matchMedia('(prefers-reduced-motion: reduce)').matches
const colours = computed(() => palette.value)
const text = computed(() => ({ color: colours.value.ink2, fontFamily: 'Atkinson Hyperlegible', fontSize: 12.5 }))

function seriesOf(s: Series, first: boolean) {
  const color = colours.value[s.colour]
  const marks = first ? props.chart.marks : undefined
  return {
    name: s.name,
    type: s.as === 'bar' ? ('bar' as const) : ('line' as const),
    data: s.values,
    stack: s.stacked ? 'all' : undefined,
    step: s.as === 'step' ? ('end' as const) : undefined,
    symbolSize: 6,
    showSymbol: s.as === 'line',
    itemStyle: { color, borderColor: colours.value.sheet, borderWidth: s.stacked ? 1 : 0 },
    lineStyle: { color, width: 2.5 },
    areaStyle: s.as === 'step' ? { color, opacity: 0.14 } : undefined,
    barMaxWidth: 26,
    markLine: marks && {
      symbol: 'none',
      silent: true,
      animation: false,
      lineStyle: { color: colours.value.warn, type: 'dashed' as const },
      label: { ...text.value, color: colours.value.warnInk, position: 'insideEndTop' as const, rotate: 0 },
      data: marks.map((m) => ({ xAxis: m.at, label: { formatter: m.words } })),
    },
  }
}
const named = computed(() => ({
  type: 'category' as const,
  data: props.chart.along as string[],
  inverse: !!props.chart.lying,
  axisLabel: { ...text.value, width: 190, overflow: 'truncate' as const },
  axisTick: { show: false },
  axisLine: { lineStyle: { color: colours.value.edge } },
}))
const timed = computed(() => ({
  type: 'time' as const,
  axisLabel: {
    ...text.value,
    hideOverlap: true,
    formatter: (at: number) => {
      const time = timeOf(new Date(at))
      return time === '00:00' ? dayOf(new Date(at)).slice(5) : time
    },
  },
  axisLine: { lineStyle: { color: colours.value.edge } },
}))
const counted = computed(() => ({
  type: 'value' as const,
  name: props.chart.lying ? '' : props.chart.unit,
  nameTextStyle: { ...text.value, align: 'left' as const },
  minInterval: 1,
  axisLabel: text.value,
  splitLine: { lineStyle: { color: colours.value.line } },
}))
const option = computed(() => {
  const along = props.chart.along === 'time' ? timed.value : named.value
  return {
    animation: !still,
    animationDuration: 250,
    textStyle: text.value,
    grid: { left: 8, right: 22, top: props.chart.lying ? 30 : 48, bottom: 6, containLabel: true },
    legend: { show: props.chart.series.length > 1, right: 8, top: 0, icon: 'roundRect', textStyle: text.value },
    tooltip: {
      trigger: 'axis' as const,
      renderMode: 'richText' as const,
      backgroundColor: colours.value.night,
      borderWidth: 0,
      textStyle: { ...text.value, color: '#fff6e4' },
    },
    xAxis: props.chart.lying ? counted.value : along,
    yAxis: props.chart.lying ? along : counted.value,
    series: props.chart.series.map((s, i) => seriesOf(s, i === 0)),
  }
})
</script>

<template>
  <VChart
    :option="option as never"
    :init-options="{ renderer: 'svg' }"
    :update-options="{ notMerge: true }"
    autoresize
  />
</template>
