import type { JSX } from 'preact';
import type { Editor } from '../logic/editor.js';

/** What the library has to say, newest last; a click goes to the node that it is about. */
export function MessageList({ editor }: { editor: Editor }): JSX.Element {
  return (
    <section class="panel log" aria-label="messages">
      <h2>messages</h2>
      {editor.told.length === 0 && <p class="empty">Nothing is wrong, as far as the library can see.</p>}
      <ul>
        {editor.told.map(({ code, hint, node, text }, i) => (
          <li key={i}>
            {text}
            <small>
              {hint} {code}
            </small>
            {node?.isAlive && (
              <button
                type="button"
                class="plain"
                onClick={() => {
                  editor.selection.choose([node]);
                  editor.tree.reveal(node);
                  editor.tell();
                }}
              >
                go to {node.name}
              </button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
