// The list of keys a workplace obeys.
import { Panel } from "./Panel.js";

export type Shortcut = readonly [keys: string, act: string];

export function Shortcuts({ list, close }: { list: readonly Shortcut[]; close: () => void }) {
  return (
    <Panel title="Keyboard" label="Keyboard shortcuts" close={close}>
      <dl>
        {list.map(([keys, act]) => (
          <div key={keys} style={{ display: "contents" }}>
            <dt>{keys}</dt>
            <dd>{act}</dd>
          </div>
        ))}
      </dl>
    </Panel>
  );
}

/** Whether keys pressed there are text, not shortcuts. */
export function isTyping(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName))
  );
}
