import { useMediaQuery, usePreferredDark, useStorage } from '@vueuse/core'
import { computed, watchEffect } from 'vue'
import { themeOf } from './antd'
import { dark, light } from './palette'

/** The theme that is wished: the system's, or one by hand. */
export type Wish = 'system' | 'light' | 'dark'

export const wished = useStorage<Wish>('theme', 'system')
const systemIsDark = usePreferredDark()
/** Whether the page goes to paper, which is light. */
export const printing = useMediaQuery('print')
export const isDark = computed(
  () => !printing.value && (wished.value === 'system' ? systemIsDark.value : wished.value === 'dark'),
)
export const palette = computed(() => (isDark.value ? dark : light))
export const theme = computed(() => themeOf(palette.value, isDark.value))

const kebab = (name: string) => name.replace(/[A-Z]/g, (c) => `-${c.toLowerCase()}`)

/** Writes the palette where styles read it, and does so again when the theme changes. */
export function dress(root: HTMLElement = document.documentElement) {
  watchEffect(() => {
    for (const [name, colour] of Object.entries(palette.value)) root.style.setProperty(`--${kebab(name)}`, colour)
    root.style.colorScheme = isDark.value ? 'dark' : 'light'
    root.dataset.theme = isDark.value ? 'dark' : 'light'
  })
}
