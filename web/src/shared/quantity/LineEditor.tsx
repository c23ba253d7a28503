// A line of text in place of a quantity: Enter takes it, Escape leaves, and what cannot be taken stays with its reason.
import { type ReactNode, useEffect, useRef, useState } from "react";
import { Typed } from "../controls.js";

export function LineEditor({
  label,
  first,
  placeholder,
  width,
  take,
  leave,
  children,
}: {
  label: string;
  /** What stands there at first, and whether all of it is selected. */
  first: { readonly text: string; readonly selected: boolean };
  placeholder?: string;
  /** Characters, at least. */
  width: number;
  /** @param stay - the focus stays here. @returns why it cannot be taken, or null once it is */
  take: (text: string, stay: boolean) => string | null;
  leave: () => void;
  children?: ReactNode;
}) {
  const [text, setText] = useState(first.text);
  const [trouble, setTrouble] = useState<string | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const begun = useRef(first);
  useEffect(() => {
    input.current?.focus();
    if (begun.current.selected) input.current?.select();
  }, []);
  return (
    <span>
      <Typed
        ref={input}
        className="editor-in"
        aria-label={label}
        aria-invalid={trouble !== null}
        placeholder={placeholder}
        size={Math.max(width, text.length + 1)}
        value={text}
        onChange={(event) => {
          setText(event.target.value);
          setTrouble(null);
        }}
        onClick={(event) => event.stopPropagation()}
        onKeyDown={(event) => {
          event.stopPropagation();
          if (event.key === "Enter") setTrouble(take(text.trim(), true));
          if (event.key === "Escape") leave();
        }}
        onBlur={() => setTrouble(take(text.trim(), false))}
      />
      {children}
      {trouble && (
        <span className="bubble" role="alert">
          {" "}
          {trouble}
        </span>
      )}
    </span>
  );
}
