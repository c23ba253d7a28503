// The list of keys a workplace obeys.
import { Panel } from "./Panel.js";

export { isTyping } from "./keys.js";

export type Shortcut = readonly [keys: string, act: string];

export function Shortcuts({ list, close }: { list: readonly Shortcut[]; close: () => void }) {
  return (
    <Panel title="Keyboard" label="Keyboard shortcuts" close={close}>
      <dl className="keylist">
        {list.map(([keys, act]) => (
          <div key={keys}>
            <dt>{keys}</dt>
            <dd>{act}</dd>
          </div>
        ))}
      </dl>
    </Panel>
  );
}
