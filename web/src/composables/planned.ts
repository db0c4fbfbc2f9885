import { inject, provide, ref, type InjectionKey, type Ref } from 'vue'

const key: InjectionKey<Ref<number>> = Symbol('message')

/** Says which message is planned below here; 0 while it is not kept yet. */
export const providePlanned = (id: Ref<number>) => provide(key, id)

/** The message that is planned, for the questions about a plan: its copies count. */
export const usePlanned = (): Ref<number> => inject(key, ref(0))
