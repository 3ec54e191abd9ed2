import { computed, ref, shallowRef, watch, type Ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, ask, type Op, type Schemas, sentence } from '../../api/client'
import { over } from '../../rail/pending'
import { useProject } from '../../rail/project'

export type Member = Schemas['Member']
export type TypeEdit = ReturnType<typeof useTypeEdit>

/**
 * A type while it is edited. What is changed shows at once; where equipment of
 * the type exists it waits until what it would do to that is looked at and
 * applied.
 */
export function useTypeEdit(told: Ref<Schemas['Type'] | undefined>) {
  const project = useProject()
  const { t } = useI18n()
  const ops = shallowRef<Op[]>([])
  const effect = shallowRef<Schemas['Effect']>()
  const problem = ref('')
  const type = computed(
    () =>
      told.value && over(project.latest('type', told.value.id, told.value), 'type', told.value.id, ops.value),
  )
  const members = computed(() =>
    (Object.entries(type.value?.members ?? {}) as [string, Member][]).sort(
      ([, a], [, b]) => a.order - b.order,
    ),
  )
  const discard = () => {
    ops.value = []
    effect.value = undefined
    problem.value = ''
  }
  watch(() => told.value?.id, discard)

  let asked: Promise<unknown> = Promise.resolve()
  function change(path: string, value: unknown) {
    const op: Op = { kind: 'type', id: told.value!.id, path, value }
    problem.value = ''
    ops.value = [...ops.value, op]
    asked = asked.then(() => weigh(op))
    return asked
  }
  async function weigh(op: Op) {
    if (!ops.value.includes(op)) return
    const weighed = ops.value
    try {
      const got = await ask(
        api.POST('/api/projects/{project}/effects', {
          params: { path: project.path },
          body: { label: '', ops: weighed },
        }),
      )
      effect.value = got
      // What was typed meanwhile is not weighed yet, and decides for all.
      if (!got.instances && ops.value === weighed) await apply()
    } catch (e) {
      ops.value = ops.value.filter((o) => o !== op)
      problem.value = sentence(e)
    }
  }
  async function apply() {
    const list = ops.value
    const name = type.value?.name ?? ''
    ops.value = []
    effect.value = undefined
    if (list.length) await project.edit(t('gear.edited', { name }), list)
  }
  /** Sets some of a member's tag. */
  function setTag(id: string, part: Record<string, unknown>) {
    const m = type.value!.members[id]!
    const next = { ...m.tag, ...part } as Record<string, unknown>
    for (const [k, v] of Object.entries(next)) if (v === '' || v === undefined) delete next[k]
    return change(`/members/${id}/tag`, { ...next, name: m.name, id: '' })
  }
  return { type, members, ops, effect, problem, change, setTag, apply, discard }
}
