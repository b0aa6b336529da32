import { defineConfigWithVueTs, vueTsConfigs } from '@vue/eslint-config-typescript'
import prettier from 'eslint-config-prettier'
import vue from 'eslint-plugin-vue'

export default defineConfigWithVueTs(
  { ignores: ['src/api/schema.d.ts', 'node_modules'] },
  vue.configs['flat/recommended'],
  vueTsConfigs.recommended,
  prettier,
  {
    rules: {
      'vue/multi-word-component-names': 'off',
      'vue/no-restricted-v-bind': [
        'error',
        ...['input', 'textarea'].map((element) => ({
          element,
          argument: 'value',
          message: 'Drawn anew, it loses what is being typed: use v-typed.',
        })),
      ],
    },
  },
)
