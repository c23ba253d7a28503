// Signs that come along when text is pasted and are no text: controls, and halves of signs. No file and no database
// takes them, so they are left out where text is typed or pasted.

const NO_TEXT = /[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f]|\p{Surrogate}/gu;

/** @returns the text without such signs; the same string when there are none */
export function cleanText(text: string): string {
  return text.replace(NO_TEXT, "");
}
