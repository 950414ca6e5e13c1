import type { ComputedRef, InjectionKey } from 'vue'

/** Tells rows whether they are near the window that one looks through. */
export interface Nearness {
  /** The program is short: all rows are drawn. */
  readonly always: ComputedRef<boolean>
  watch(element: Element, hear: (near: boolean) => void): void
  forget(element: Element): void
}

export const NEARNESS: InjectionKey<Nearness> = Symbol('nearness')
