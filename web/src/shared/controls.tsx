// Controls from MUI that look and lie as the page's own: a list to choose from, a line of text.
import InputBase from "@mui/material/InputBase";
import LinearProgress from "@mui/material/LinearProgress";
import NativeSelect from "@mui/material/NativeSelect";
import type { ComponentProps } from "react";

const NoIcon = () => null;

/** A list to choose one of; its options are the children. */
export function Pick({ children, ref, ...rest }: ComponentProps<"select">) {
  return (
    <NativeSelect input={<InputBase className="bare" />} IconComponent={NoIcon} inputProps={rest} inputRef={ref}>
      {children}
    </NativeSelect>
  );
}

/** A line of text. */
export function Typed({ ref, ...rest }: ComponentProps<"input">) {
  return <InputBase className="bare" inputProps={rest} inputRef={ref} />;
}

/** How much of a long work is done. @param share - 0..1 */
export function Bar({ share, label }: { share: number; label: string }) {
  return <LinearProgress className="bar" variant="determinate" value={Math.min(100, 100 * share)} aria-label={label} />;
}
