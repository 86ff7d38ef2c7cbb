import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'
import ts from 'typescript-eslint'

export default ts.config(
  { ignores: ['node_modules', 'src/api/schema.d.ts', 'src/components.d.ts'] },
  ...ts.configs.recommended,
  ...vue.configs['flat/recommended'],
  { files: ['**/*.vue'], languageOptions: { parserOptions: { parser: ts.parser } } },
  { rules: { 'vue/multi-word-component-names': 'off', 'no-undef': 'off' } },
  {
    // The desk is made of parts, which are made of Ant Design Vue's: no control, table or day of a browser's own.
    files: ['src/**/*.vue'],
    ignores: ['src/hand/**', 'src/parts/ListTable.vue', 'src/shell/ScanLine.vue', 'src/shell/SignOn.vue'],
    rules: { 'vue/no-restricted-html-elements': ['error', 'select', 'input', 'textarea', 'table', 'dialog'] },
  },
  prettier,
)
