/**
 * Tells what a hand has typed from what a field of numbers says again when it is left: that is what it showed, rounded, when it was
 * come to, and would undo a change made since. shown: the number in the field's unit; digits: how many it shows behind the point.
 */
export function useTouched(shown: () => number, digits: () => number): { focus: () => void; input: () => void; take: (value: number) => boolean } {
  let before = NaN;
  let isTyped = false;
  return {
    focus: () => {
      before = shown();
      isTyped = false;
    },
    input: () => {
      isTyped = true;
    },
    /** Whether a value is news; told once. */
    take: (value) => {
      const isNews = isTyped || !(Math.abs(value - before) <= 0.5000001 * 10 ** -digits());
      before = value;
      isTyped = false;
      return isNews;
    },
  };
}
