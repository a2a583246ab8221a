import js from '@eslint/js';
import prettier from 'eslint-config-prettier';
import svelte from 'eslint-plugin-svelte';
import globals from 'globals';
import ts from 'typescript-eslint';
import svelteConfig from './svelte.config.js';

/** It is mended before it is used. */
const INTERPRETER = { name: 'mupdf', message: 'Take it from core/interpreter, which mends it.' };

export default ts.config(
  { ignores: ['build/', 'dist-node/', '.svelte-kit/', '.data/', 'node_modules/', 'core/kernels/assembly/', 'test-results/'] },
  js.configs.recommended,
  ...ts.configs.recommended,
  ...svelte.configs.recommended,
  prettier,
  ...svelte.configs.prettier,
  { languageOptions: { globals: { ...globals.browser, ...globals.node } } },
  {
    files: ['**/*.svelte', '**/*.svelte.ts'],
    languageOptions: { parserOptions: { extraFileExtensions: ['.svelte'], parser: ts.parser, svelteConfig } }
  },
  {
    rules: {
      'no-undef': 'off',
      // Addresses are plain: the application has no base path.
      'svelte/no-navigation-without-resolve': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_' }]
    }
  },
  { files: ['{core,src,standins,demo}/**'], rules: { 'no-restricted-imports': ['error', { paths: [INTERPRETER] }] } },
  // One way of reading an array at a place that is in it: an exclamation mark, no cast.
  {
    files: ['{core,standins,protocol}/**'],
    rules: {
      'no-restricted-syntax': [
        'error',
        {
          selector: 'TSAsExpression[typeAnnotation.type="TSNumberKeyword"] > MemberExpression[computed=true]',
          message: 'Read a place of an array that is in it as list[i]!.'
        }
      ]
    }
  },
  { files: ['core/interpreter/interpreter.ts'], rules: { 'no-restricted-imports': 'off' } },
  // Tests read files.
  { files: ['**/*.test.ts'], rules: { 'no-restricted-imports': 'off', '@typescript-eslint/no-non-null-assertion': 'off' } }
);
