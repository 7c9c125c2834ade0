/** Size of the letters that tell a place under a line. */
export const LETTERS = 12.5;
/** As wide as such a letter is at the most, on the whole. */
export const LETTER = 0.58 * LETTERS;

/**
 * Where the middle of each label is put, from left to right on a sheet of that width: beneath its
 * place, but on the sheet; nowhere (undefined) where it would run into the one before.
 */
export function marks(labels: { x: number; long: number }[], wide: number): (number | undefined)[] {
  let taken = 0;
  return labels.map(({ x, long }) => {
    const half = long / 2;
    const middle = Math.min(Math.max(x, half), wide - half);
    if (middle - half < taken) return undefined;
    taken = middle + half + LETTER;
    return middle;
  });
}
