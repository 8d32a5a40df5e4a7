// The linter keeps the borders between rooms: web → contract ← server → core, web → core.
import js from '@eslint/js'
import globals from 'globals'
import reactHooks from 'eslint-plugin-react-hooks'
import regexp from 'eslint-plugin-regexp'
import tseslint from 'typescript-eslint'

/** Forbids imports of the named rooms from the files of another. */
const border = (files, rooms, extra = []) => ({
  files: [`${files}/**/*.{ts,tsx}`],
  rules: {
    'no-restricted-imports': [
      'error',
      {
        patterns: [
          { regex: `^#(${rooms.join('|')})/`, message: `${files}/ may not import from this room.` },
          {
            regex: '^(\\.\\./)+(core|contract|server|web|demo|test)/',
            message: 'Cross a room by its # name.',
          },
          ...extra,
        ],
      },
    ],
  },
})

const inputOutput = {
  regex: '^(node:|express|pg|drizzle-orm|react)',
  message: 'core/ has no I/O, no clock and no interface.',
}

/** The demo's company, people and trade: the product serves any. */
const DEMO_NAMES =
  /\b(?:larkmere|pollinat\w*|apiar\w*|beekeep\w*|bees?|hives?|colon(?:y|ies)|growers?|orchards?|ines hallow|petra vance|jonah teel|ruth ambler|gideon farrow|maren oakes|silas brandt|tobias renn)\b|\bLP-/gi

const noDemoNames = {
  create: (context) => ({
    Program() {
      const { sourceCode } = context
      for (const found of sourceCode.text.matchAll(DEMO_NAMES))
        context.report({
          loc: sourceCode.getLocFromIndex(found.index),
          message: `“${found[0]}” belongs to the demo: the product knows nothing of it.`,
        })
    },
  }),
}

/** What is given a transaction has its database, clock and queue from that alone. */
const insideOfTransaction = {
  files: ['server/**/*.ts', 'demo/**/*.ts'],
  rules: {
    'no-restricted-syntax': [
      'error',
      ...[
        'CallExpression[callee.name="transaction"] > :function',
        ':function[params.0.name="work"]',
        ':function[params.0.typeAnnotation.typeAnnotation.typeName.name="Work"]',
      ].map((inside) => ({
        selector: `${inside} Identifier[name="app"]`,
        message: 'Inside a transaction there is no app: the parameter has what there is.',
      })),
    ],
  },
}

export default tseslint.config(
  { ignores: ['dist', 'node_modules', '.brevan', 'test-results'] },
  js.configs.recommended,
  ...tseslint.configs.strict,
  {
    languageOptions: { globals: { ...globals.node } },
    rules: {
      '@typescript-eslint/no-explicit-any': 'error',
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-unused-vars': ['error', { argsIgnorePattern: '^_', varsIgnorePattern: '^_' }],
      '@typescript-eslint/no-dynamic-delete': 'off',
      '@typescript-eslint/no-invalid-void-type': 'off',
      eqeqeq: 'error',
      'no-duplicate-imports': 'error',
    },
  },
  {
    files: ['web/**/*.{ts,tsx}'],
    languageOptions: { globals: { ...globals.browser } },
    plugins: { 'react-hooks': reactHooks },
    rules: {
      'react-hooks/rules-of-hooks': 'error',
      'react-hooks/exhaustive-deps': 'error',
    },
  },
  {
    // What text from outside reaches takes time in proportion to its length.
    files: ['core/**/*.ts', 'contract/**/*.ts', 'server/**/*.ts', 'web/**/*.{ts,tsx}'],
    plugins: { regexp },
    rules: {
      'regexp/no-super-linear-backtracking': ['error', { report: 'potential' }],
      'regexp/no-super-linear-move': ['error', { report: 'potential' }],
    },
  },
  {
    files: ['core/**/*.ts', 'contract/**/*.ts', 'server/**/*.ts', 'web/**/*.{ts,tsx}'],
    plugins: { brevan: { rules: { 'no-demo-names': noDemoNames } } },
    rules: { 'brevan/no-demo-names': 'error' },
  },
  border('core', ['contract', 'server', 'web', 'demo', 'test'], [inputOutput]),
  {
    files: ['core/**/*.ts'],
    rules: {
      'no-restricted-properties': [
        'error',
        { object: 'Date', property: 'now', message: 'core/ is given the time.' },
        { object: 'Math', property: 'random', message: 'core/ is given its random numbers.' },
      ],
    },
  },
  insideOfTransaction,
  border('contract', ['server', 'web', 'demo', 'test']),
  border('server', ['web', 'demo', 'test']),
  border('web', ['server', 'demo', 'test']),
  border('demo', ['web', 'test']),
  {
    files: ['test/**/*.ts'],
    languageOptions: { globals: { ...globals.mocha } },
    rules: { '@typescript-eslint/no-unused-expressions': 'off' },
  },
)
