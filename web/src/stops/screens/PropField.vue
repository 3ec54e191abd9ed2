<script setup lang="ts">
import { mdiFunctionVariant } from '@mdi/js'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Prop } from '../../api/client'
import FieldCheck from '../../kit/FieldCheck.vue'
import FieldSelect from '../../kit/FieldSelect.vue'
import FieldText from '../../kit/FieldText.vue'
import FormulaInput from '../../kit/FormulaInput.vue'
import { useProject } from '../../rail/project'
import { colour } from '../../theme'
import TagField from '../../tags/TagField.vue'

// One property: its plain value, or the formula that drives it.
const props = defineProps<{ prop: Prop; value: unknown; formula: string | undefined; differs: boolean }>()
const emit = defineEmits<{ set: [value: unknown]; bind: [formula: string] }>()
const project = useProject()
const { t, te } = useI18n()
const binding = ref(!!props.formula)
watch(() => props.formula, (f) => (binding.value = !!f))
const label = computed(() => (te('prop.' + props.prop.name) ? t('prop.' + props.prop.name) : props.prop.title))
const asText = computed(() => (props.differs && props.value === undefined ? undefined : (props.value as string | number | undefined)))

function number(text: string) {
  const v = Number(text.replace(',', '.'))
  if (Number.isFinite(v)) emit('set', v)
}
function toggle() {
  if (binding.value && props.formula) emit('bind', '')
  binding.value = !binding.value
}
</script>

<template>
  <div class="prop">
    <div class="what">
      <FormulaInput v-if="binding" :label="label" :model-value="formula ?? ''" :wants="prop.type" :placeholder="$t('inspector.formula')" @update:model-value="emit('bind', $event)" />
      <TagField v-else-if="prop.type === 'tag'" :label="label" :model-value="(value as string) ?? ''" @update:model-value="emit('set', $event || undefined)" />
      <FieldSelect v-else-if="prop.type === 'screen'" :label="label" :model-value="(value as string) ?? ''" :options="[{ value: '', title: '—' }, ...project.screens.map((s) => ({ value: s.id, title: s.name }))]" @update:model-value="emit('set', $event || undefined)" />
      <FieldSelect v-else-if="prop.type === 'device'" :label="label" :model-value="(value as string) ?? ''" :options="[{ value: '', title: '—' }, ...project.devices.map((d) => ({ value: d.id, title: d.name }))]" @update:model-value="emit('set', $event || undefined)" />
      <FieldCheck v-else-if="prop.type === 'bool'" :label="label" :model-value="value as boolean" @update:model-value="emit('set', $event)" />
      <FieldSelect v-else-if="prop.type === 'choice'" :label="label" :model-value="value as string" :options="(prop.choices ?? []).map((c) => ({ value: c, title: $t('choice.' + c) }))" @update:model-value="emit('set', $event)" />
      <div v-else-if="prop.type === 'colour'" class="field">
        <label>{{ label }}</label>
        <div class="swatches">
          <button v-for="c in project.colours" :key="c" type="button" class="swatch" :class="{ on: value === c, none: c === 'none' }" :style="{ background: c === 'none' ? undefined : colour(c) }" :title="$t('colour.' + c)" :aria-label="$t('colour.' + c)" :aria-pressed="value === c" @click="emit('set', c)" />
          <input class="hex" type="color" :value="typeof value === 'string' && value.startsWith('#') ? value.slice(0, 7) : '#808080'" :aria-label="$t('colour.own')" @change="emit('set', ($event.target as HTMLInputElement).value)" />
        </div>
      </div>
      <FieldText v-else-if="prop.type === 'number'" :label="label" mono :model-value="asText" :placeholder="differs ? $t('inspector.differs') : ''" @update:model-value="number" />
      <FieldText v-else :label="label" :model-value="asText" :placeholder="differs ? $t('inspector.differs') : ''" :hint="prop.type === 'template' ? $t('inspector.template') : ''" @update:model-value="emit('set', $event)" />
    </div>
    <button v-if="prop.bindable" class="bare fx" :class="{ on: binding, level: !binding && prop.type === 'bool' }" :title="binding ? $t('inspector.unbind') : $t('inspector.bind')" :aria-label="(binding ? $t('inspector.unbind') : $t('inspector.bind')) + ' ' + label" @click="toggle"><v-icon :icon="mdiFunctionVariant" size="18" /></button>
  </div>
</template>

<style scoped>
.prop { display: flex; gap: 6px; align-items: flex-start; }
.what { flex: 1; min-width: 0; }
.fx { margin-top: 20px; padding: 6px; border-radius: 4px; color: var(--c-quiet); }
.fx.level { margin-top: 0; }
.fx.on { color: var(--c-spruce); background: var(--c-tint); }
.swatches { display: flex; flex-wrap: wrap; gap: 4px; }
.swatch { width: 22px; height: 22px; border: 1px solid var(--c-quiet); border-radius: 3px; cursor: pointer; padding: 0; }
.swatch.on { outline: 2px solid var(--c-spruce); outline-offset: 1px; }
.swatch.none { background: linear-gradient(45deg, transparent 46%, var(--c-error) 46% 54%, transparent 54%); }
.field input.hex { width: 22px; min-height: 22px; height: 22px; padding: 0; border-radius: 3px; }
</style>
