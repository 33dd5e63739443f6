/** Whether a key asks for the menu; the browser's own event for it goes where it thinks the caret is. */
export const asksForMenu = (event: { key: string; shiftKey: boolean }) =>
  event.key === "ContextMenu" || (event.shiftKey && event.key === "F10");
