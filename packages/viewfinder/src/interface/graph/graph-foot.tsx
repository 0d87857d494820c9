import type { GraphCosts, GraphFinding } from '@umber-lens/core/graphs';
import type { JSX } from 'preact';
import { onBoard } from '../../logic/graph/board-graph.js';
import type { ProbedValues } from '../../logic/graph/graph-probe.js';
import type { GraphSession } from '../../logic/graph/graph-session.js';
import { costText } from './graph-details.js';

interface GraphFootProps {
  session: GraphSession;
  costs: GraphCosts | undefined;
  hasPictures: boolean;
  probed: ProbedValues;
}

/** What is wrong, and what it costs. */
export function GraphFoot({ costs, hasPictures, probed, session }: GraphFootProps): JSX.Element {
  const { findings, isWrong } = session;
  return (
    <footer>
      {findings.length === 0 ? (
        <span>Nothing is wrong. {hasPictures ? probeLine(probed) : ''}</span>
      ) : (
        <ul aria-label="findings">
          {byGravity(findings).map(({ function: of, hint, message, node, severity }, i) => (
            <li key={i} class={severity}>
              <button
                type="button"
                class="plain"
                disabled={node === undefined && of === undefined}
                onClick={() => {
                  session.open(of);
                  if (node !== undefined) session.choose([node]);
                }}
              >
                {severity}
              </button>
              {message}
              {hint && <small>{hint}</small>}
            </li>
          ))}
        </ul>
      )}
      {isWrong && <p class="note">The last picture that was right stays until this is right again.</p>}
      {costs && !isWrong && <Costs costs={costs} session={session} />}
    </footer>
  );
}

/** What the GPU said of the numbers of the CPU. */
function probeLine({ alone, other, same }: ProbedValues): string {
  const besides = alone.length > 0 ? ` Of ${alone.length} it alone knows.` : '';
  if (other.length > 0) return `The GPU differs at ${other.slice(0, 5).join(', ')}.${besides}`;
  if (same.length > 0)
    return `Values are those under the probe; the GPU has the same at all ${same.length}.${besides}`;
  return alone.length > 0
    ? 'Values are the GPU’s: what textures hold, or pixels beside an edge, the script does not know.'
    : 'Values are those under the probe: click on a picture.';
}

/** How many nodes are named as those that cost most. */
const DEAREST = 3;

function Costs({ costs, session }: { costs: GraphCosts; session: GraphSession }): JSX.Element | null {
  const { fragment, vertex } = costs.stages;
  const stages = (
    [
      ['a pixel', fragment],
      ['a vertex', vertex],
    ] as const
  ).filter(([, { operations, textureReads }]) => operations + textureReads > 0);
  if (stages.length === 0) return null;
  const dearest = [...onBoard(costs.nodes, session.opened)]
    .filter(([name]) => name in (session.board.nodes ?? {}))
    .sort(([, a], [, b]) => b.operations + 50 * b.textureReads - a.operations - 50 * a.textureReads)
    .slice(0, DEAREST);
  return (
    <p class="note costs" title="counted by the compiler; light counts once a light">
      {stages.map(([what, cost]) => `${what}: ${costText(cost)}`).join(' · ')}
      {dearest.length > 1 && ' · most: '}
      {dearest.length > 1 &&
        dearest.map(([name, cost]) => (
          <button
            key={name}
            type="button"
            class="plain"
            title={costText(cost)}
            onClick={() => session.choose([name])}
          >
            {name}
          </button>
        ))}
    </p>
  );
}

/** What is wrong before what is seldom meant. */
const byGravity = (findings: readonly GraphFinding[]): GraphFinding[] =>
  [...findings].sort((a, b) => Number(b.severity === 'error') - Number(a.severity === 'error')).slice(0, 40);
