// Which keys are the page's: only those that nothing under the focus would take.

/** What is typed into. */
const TEXT =
  'input:not([type=checkbox]):not([type=radio]):not([type=button]):not([type=range]), textarea, select, [contenteditable]:not([contenteditable=false]), [role=textbox], [role=combobox], [role=searchbox]'
/** Where letters look for an entry, or keys belong to what lies over the page. */
const OVER = '[role=listbox], [role=menu], [role=dialog], [role=alertdialog]'
/** What figures, arrows and the like are for. */
const VALUE = '[role=spinbutton], [role=slider], [role=radio], [role=tab], input[type=radio], input[type=range]'
const OF_VALUES = /^([0-9.,+\-*/()]|Arrow\w+|Home|End|PageUp|PageDown|Enter|Backspace|Delete)$/

/** Whether something else takes a key than the page as a whole. */
export function isTaken(event: KeyboardEvent): boolean {
  if (event.defaultPrevented || event.isComposing) return true
  const { target } = event
  if (!(target instanceof Element)) return false
  if (target.closest(TEXT) || target.closest(OVER)) return true
  // Text that was selected by hand is about to be copied or looked up
  if (!window.getSelection()?.isCollapsed && OF_VALUES.test(event.key)) return true
  return !!target.closest(VALUE) && OF_VALUES.test(event.key)
}
