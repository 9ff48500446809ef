/** Every key of the window: the sheet on "?" is made from this list. Tooltips name theirs by themselves. */
export const SHORTCUTS: { keys: string; does: string; group: 'View' | 'Picking' | 'Project' }[] = [
  { keys: '1 to 6', does: 'front, back, left, right, top, bottom', group: 'View' },
  { keys: 'F', does: 'fit everything', group: 'View' },
  { keys: 'P', does: 'perspective or parallel rays', group: 'View' },
  { keys: 'C', does: 'next colouring of bodies', group: 'View' },
  { keys: 'Left drag', does: 'turn about the point under the pointer', group: 'View' },
  { keys: 'Middle or Shift+left drag', does: 'shift', group: 'View' },
  { keys: 'Wheel', does: 'zoom to the pointer', group: 'View' },
  { keys: 'Backspace', does: 'take the last pick back', group: 'Picking' },
  { keys: 'Enter', does: 'apply', group: 'Picking' },
  { keys: 'Esc', does: 'drop the picks, then leave the tool', group: 'Picking' },
  { keys: 'Ctrl+K', does: 'find an operation, body, pass or datum', group: 'Project' },
  { keys: 'Ctrl+Z, Ctrl+Shift+Z', does: 'undo, redo', group: 'Project' },
  { keys: 'Alt+Up, Alt+Down', does: 'move in the tray', group: 'Project' },
  { keys: 'F2', does: 'rename in the tray', group: 'Project' },
  { keys: '?', does: 'this sheet', group: 'Project' },
];
