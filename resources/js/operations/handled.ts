/** What a movement was typed or dragged to; from where it ended the next one begins. */
export const MOVEMENT = ['shiftX', 'shiftY', 'shiftZ', 'turnX', 'turnY', 'turnZ', 'x', 'y', 'z', 'angle'] as const;
