/**
 * The contrast of two colours, from 1 to 21: WCAG 2.2, "contrast ratio" and "relative luminance".
 *
 * @param one such as `#1a2b3c`, as is `two`
 */
export function contrast(one: string, two: string): number {
  const [light, dark] = [luminance(one), luminance(two)].sort((left, right) => right - left);
  return ((light ?? 0) + 0.05) / ((dark ?? 0) + 0.05);
}

function luminance(colour: string): number {
  const [red = 0, green = 0, blue = 0] = [1, 3, 5].map((at) => {
    const part = Number.parseInt(colour.slice(at, at + 2), 16) / 255;
    return part <= 0.04045 ? part / 12.92 : ((part + 0.055) / 1.055) ** 2.4;
  });
  return 0.2126 * red + 0.7152 * green + 0.0722 * blue;
}
