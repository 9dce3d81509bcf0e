/** The element that an event went to: a window or a document is none. */
export const under = (target: EventTarget | null): Element | null =>
  target instanceof Element ? target : null;
