// How rays meet what is in a scene.
export const MEETINGS = ['seen', 'reflected', 'refracted', 'bounced', 'shadowed', 'lit'] as const;
export type Meeting = (typeof MEETINGS)[number];
