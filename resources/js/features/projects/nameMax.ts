/** Characters that a project's name may have: as the server takes it (Border). */
export const NAME_MAX = 200;
