import type { Directive } from "vue";

/**
 * The keyboard goes to this field at once, in the same moment in which it appears. A focus that comes later can
 * come between a hand that has already gone on to the next field and what it types there.
 */
export const vFocusFirst: Directive<HTMLElement> = {
  mounted(field) {
    field.querySelector<HTMLElement>("input, textarea")?.focus();
  },
};
