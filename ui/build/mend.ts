import type { Plugin } from 'vite'

/**
 * Corrections to Ant Design Vue 4.2.6, which gets no releases any more: what its controls say to screen readers, and
 * which keys they keep to themselves. The build stops when one no longer fits.
 */
type Mend = [find: string | RegExp, put: string]
const mends: Record<string, Mend[]> = {
  // A closed list is expanded=false and owns nothing.
  'vc-select/Selector/Input.js': [
    ["'aria-expanded': open", "'aria-expanded': !!open"],
    [/'aria-(owns|controls)': /g, "'aria-$1': !open ? undefined : "],
    ["activedescendant': activeD", "activedescendant': !open || /-1$/.test(activeDescendantId) ? undefined : activeD"],
  ],
  // Enter on a closed list only opens it; Ctrl+Enter is the page's.
  'vc-select/Selector/index.js': [
    [
      'if (isValidateOpenKey(which',
      'if (which !== 13 && !event.ctrlKey && !event.altKey && isValidateOpenKey(which',
    ],
  ],
  'vc-select/BaseSelect.js': [
    [
      'const clearLock =',
      'if (event.ctrlKey && event.which === 13) return; const wasOpen = mergedOpen.value; const clearLock =',
    ],
    [/mergedOpen\.value( && listRef\.value\) \{\s+listRef\.value\.onKeydown)/, 'wasOpen$1'],
  ],
  // Escape that closes the list, and Enter that chooses, stop there.
  'vc-select/OptionList.js': [
    [/if \(baseProps\.open\) \{(\s+event\.stopProp)/, '{$1'],
    [/if \(baseProps\.open\) \{(\s+event\.preventDef)/, 'if (item) {$1'],
    ['"aria-selected": selected,', ''],
  ],
  'vc-picker/hooks/usePickerInput.js': [
    ['onKeydown(e, preventDefault);', 'if (e.ctrlKey && e.which === 13) return; onKeydown(e, preventDefault);'],
    [/(typing\.value = true;\s+onCancel)/, 'if (open.value) e.stopPropagation(); $1'],
  ],
  'vc-picker/panels/Header.js': [
    [/"class": `\$\{prefixCls\}-super-(prev|next)-btn/g, '"aria-label": "$1 year", $&'],
    [/"class": `\$\{prefixCls\}-(prev|next)-btn/g, '"aria-label": "$1 month", $&'],
  ],
  // Each cell queued a job as it appeared: quadratic.
  'vc-table/Cell/index.js': [['[hovering, () => props.prefixCls, hoverRef]', 'hovering']],
  'table/hooks/useSorter.js': [[/"role": "presentation"/g, '"aria-hidden": true']],
}

export const mendAntd = (): Plugin => ({
  name: 'mend-antd',
  enforce: 'pre',
  transform(code, id) {
    const file = Object.keys(mends).find((k) => id.includes(`ant-design-vue/es/${k}`))
    if (!file) return
    for (const [find, put] of mends[file]!) {
      const before = code
      code = code.replace(find, put)
      if (code === before) throw new Error(`The mend of ${file} does not fit any more: ${find}`)
    }
    return { code, map: null }
  },
})
