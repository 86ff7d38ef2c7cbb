// @vitest-environment jsdom
import { beforeEach, describe, expect, it } from 'vitest'
import { effectScope, nextTick, ref } from 'vue'
import { session } from '@/api/session'
import { discardTyped, hasDraft, hasTyped, useDraft } from './draft'

interface Order {
  note: string
  lines: { key: string; quantity: string }[]
}
const read = (note: string, ...quantities: string[]): Order => ({
  note,
  lines: quantities.map((quantity, i) => ({ key: String(i + 1), quantity })),
})

/** A draft in a page of its own, which can be closed. */
function open(key: string, copy = ref<Order | undefined>(read('', '5', '7'))) {
  const page = effectScope()
  const draft = page.run(() => useDraft<Order>(key, () => copy.value))!
  return { draft, copy, close: () => page.stop() }
}
const mine = (draft: ReturnType<typeof open>['draft']) => draft.mine.value!

beforeEach(() => {
  sessionStorage.clear()
  session.person = { id: 7, name: 'Ines', role: 'lead', badge: false } as never
})

describe('a draft', () => {
  it('follows the server while nothing is typed, and keeps what is when it changes under it', async () => {
    const { draft, copy, close } = open('order/1')
    copy.value = read('from there', '5', '8')
    await nextTick()
    expect(mine(draft)).toEqual(read('from there', '5', '8'))
    expect(hasTyped.value).toBe(false)
    mine(draft).lines[0]!.quantity = '6'
    expect(hasTyped.value).toBe(true)
    copy.value = read('again', '5', '9')
    await nextTick()
    expect(mine(draft)).toEqual(read('again', '6', '9'))
    expect(draft.conflicts.value).toEqual([])
    copy.value = read('again', '4', '9')
    await nextTick()
    expect(draft.conflicts.value).toMatchObject([{ path: ['lines', '1', 'quantity'], mine: '6', theirs: '4' }])
    expect(mine(draft).lines[0]!.quantity).toBe('6')
    draft.settle(draft.conflicts.value[0]!, 'theirs')
    expect(mine(draft).lines[0]!.quantity).toBe('4')
    expect(hasTyped.value).toBe(false)
    close()
  })

  it('is there again after a reload, for the same person alone, merged with what changed meanwhile', () => {
    const first = open('order/1')
    mine(first.draft).note = 'typed'
    first.close()
    expect(hasDraft('order/1')).toBe(true)
    expect(hasTyped.value).toBe(false)
    const second = open('order/1', ref(read('', '5', '70')))
    expect(second.draft.restored.value).toBe(true)
    expect(mine(second.draft)).toEqual(read('typed', '5', '70'))
    second.close()
    session.person = { id: 8 } as never
    const other = open('order/1')
    expect(mine(other.draft).note).toBe('')
    other.close()
  })

  it('is nothing any more when it is saved or discarded', () => {
    for (const end of ['saved', 'discard'] as const) {
      const { draft, close } = open('order/2')
      mine(draft).note = end
      draft[end]()
      expect(draft.changed.value).toBe(false)
      expect(hasDraft('order/2')).toBe(false)
      close()
    }
    const { draft, close } = open('order/2')
    mine(draft).note = 'left behind'
    discardTyped()
    expect(mine(draft).note).toBe('')
    close()
  })

  it('holds nothing against itself that comes back of its own command', async () => {
    const { draft, copy, close } = open('order/3')
    mine(draft).lines[0]!.quantity = '6'
    await draft.sending(async () => {
      // The server words it anew, and its live change comes before its answer.
      copy.value = read('', '6.0', '7')
      await nextTick()
      draft.saved()
    })
    expect(draft.conflicts.value).toEqual([])
    expect(mine(draft).lines[0]!.quantity).toBe('6.0')
    expect(hasTyped.value).toBe(false)
    close()
  })

  it('is another one for another key, and comes back with it', async () => {
    const key = ref('order/1')
    const page = effectScope()
    const draft = page.run(() => useDraft<Order>(key, () => read('', '1')))!
    draft.mine.value!.note = 'one'
    key.value = 'order/2'
    await nextTick()
    expect(draft.mine.value!.note).toBe('')
    key.value = 'order/1'
    await nextTick()
    expect(draft.mine.value!.note).toBe('one')
    page.stop()
  })
})
