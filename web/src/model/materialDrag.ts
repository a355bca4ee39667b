/** What is dragged when a material is: its name. */
export const MATERIAL_DRAG = 'application/x-variscen-material';
