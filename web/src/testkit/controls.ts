import { config } from '@vue/test-utils'
import { h, type VNode } from 'vue'

// Tests of views see each control as the plain element that it stands for. The
// controls themselves are tried whole in src/controls.

type Typing = Event & { target: HTMLInputElement }
type Emit = { emit: (name: 'update:modelValue', now: unknown) => void }

/** A component from how it is drawn. */
const control = <P>(props: string[], draw: (props: { modelValue?: unknown } & P, to: Emit) => VNode) => ({
  props: ['modelValue', ...props],
  emits: ['update:modelValue'],
  setup: (given: object, to: Emit) => () => draw(given as { modelValue?: unknown } & P, to),
})

const typed = (tag: string, attrs: object, take = (value: string): unknown => value) =>
  control([], (props, { emit }) =>
    h(tag, {
      ...attrs,
      value: props.modelValue ?? '',
      onInput: (event: Typing) => emit('update:modelValue', take(event.target.value)),
    }),
  )

interface Item {
  value: unknown
  title: string
  props?: { disabled?: boolean }
}

const key = (value: unknown) => String(value ?? '')

const SelectField = control<{ items: Item[] }>(['items'], ({ modelValue, items }, { emit }) =>
  h(
    'select',
    {
      value: key(modelValue),
      onChange: (event: Typing) =>
        emit('update:modelValue', items.find((i) => key(i.value) === event.target.value)?.value),
    },
    items.map((i) => h('option', { value: key(i.value), ...i.props }, i.title)),
  ),
)

const CheckBox = control<{ value?: unknown }>(['value'], ({ modelValue, value }, { emit }) => {
  const list = Array.isArray(modelValue) ? (modelValue as unknown[]) : undefined
  const tick = (on: boolean) => {
    const others = list?.filter((v) => v !== value)
    emit('update:modelValue', others ? [...others, ...(on ? [value] : [])] : on)
  }
  return h('input', {
    type: 'checkbox',
    checked: list?.includes(value) ?? Boolean(modelValue),
    onChange: (event: Typing) => tick(event.target.checked),
  })
})

const RadioBox = control<{ value?: unknown }>(['value'], ({ modelValue, value }, { emit }) =>
  h('input', {
    type: 'radio',
    checked: modelValue === value,
    onChange: () => emit('update:modelValue', value),
  }),
)

// What opens over the page is there while it is open, as in the browser.
const VDialog = {
  inheritAttrs: false,
  props: ['modelValue'],
  template: '<Teleport to="body"><div v-if="modelValue" role="dialog"><slot /></div></Teleport>',
}

config.global.stubs = {
  VDialog,
  TextField: typed('input', {}),
  AreaField: typed('textarea', {}),
  NumberField: typed('input', { type: 'number' }, (value) => (value === '' ? undefined : Number(value))),
  DayField: typed('input', {}),
  TimeField: typed('input', {}, (value) => value || undefined),
  SelectField,
  CheckBox,
  RadioBox,
}
