<script setup lang="ts">
import { dayAndTime, moment } from '../kit/moment'
import { label } from './label'
import type { Ends, Line } from './pens'
import { picture } from './picture'
import type { Range } from './range'
import { savePng, saveSvg } from './savePicture'

// What is shown, as a picture for a report.
const props = defineProps<{
  title?: string
  lines: Line[]
  range: Range
  ends: Ends
  inverted: ReadonlySet<string>
  names: ReadonlyMap<string, string>
}>()
const WIDTH = 1200

function draw(): [svg: string, name: string] {
  const { lines, range, ends, inverted, names } = props
  const title =
    props.title ||
    lines
      .slice(0, 3)
      .map((l) => l.path)
      .join(', ')
  const when = `${moment(range.from, dayAndTime)} – ${moment(range.to, dayAndTime)}`
  const svg = picture({ title, when, lines, range, ends, inverted, names, width: WIDTH, time: label })
  return [svg, `${title} ${new Date(range.from).toISOString().slice(0, 10)}`.replace(/[\\/:*?"<>|]/g, '-')]
}
</script>

<template>
  <button class="chip" :title="$t('trend.picture')" @click="savePng(...draw())">PNG</button>
  <button class="chip" :title="$t('trend.picture')" @click="saveSvg(...draw())">SVG</button>
</template>
