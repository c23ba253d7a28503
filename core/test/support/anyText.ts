import fc from "fast-check";

/** Code points between which halves of surrogate pairs lie: those alone are no text. */
const [BEFORE, AFTER, LAST] = [0xd800, 0xe000, 0x10ffff];

/**
 * Text of any characters: short ones, those of everyday and the rarest. fast-check's own counts all million of them first,
 * for a second, whenever a test asks for it.
 */
export const anyText = (maxLength: number) =>
  fc
    .array(fc.oneof(fc.nat(0x7f), fc.nat(BEFORE - 1), fc.integer({ min: AFTER, max: LAST })), { maxLength })
    .map((points) => String.fromCodePoint(...points));
