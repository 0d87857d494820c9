/** All of the interface's looks. It stands in a shadow root: the page's styles stay out, and these stay in. */
export const STYLE = `
:host { all: initial; }
* { box-sizing: border-box; }
.root {
  --ground: #211a14; --raised: #2e251c; --field: #17120d; --line: #4a3c2d; --text: #f1e6d3; --quiet: #bfae95;
  --brass: #e7b458; --ink: #1d150c; --wrong: #ff9d7e; --new: #cfe08a; --gone: #ffb09a;
  position: fixed; inset: 0; pointer-events: none; z-index: 2147483000; color: var(--text); display: block;
  font: 400 12.5px/1.4 system-ui, -apple-system, 'Segoe UI', sans-serif; color-scheme: dark; text-align: left;
}
.root.light {
  --ground: #f6efe3; --raised: #ece1cf; --field: #fffaf2; --line: #c9b698; --text: #2a2018; --quiet: #6a5842;
  --brass: #84560f; --ink: #fff8ec; --wrong: #a8321a; --new: #3f5b10; --gone: #97331c; color-scheme: light;
}
.glass, .ink { position: absolute; }
.glass { pointer-events: auto; outline: none; touch-action: none; }
.glass:focus-visible { box-shadow: inset 0 0 0 2px var(--brass); }
.glass.live { pointer-events: none; }
.ink { pointer-events: none; }
.panel { background: var(--ground); border: 1px solid var(--line); border-radius: 7px; pointer-events: auto;
  box-shadow: 0 6px 24px #0000004d; }
.rail { position: absolute; top: 10px; right: 10px; bottom: 10px; width: var(--rail, 316px); display: flex; flex-direction: column;
  overflow: hidden; }
.rail.left { right: auto; left: 10px; }
.nodes { flex: 0 0 var(--nodes, 40%); min-height: 96px; display: flex; flex-direction: column; }
.split { flex: 0 0 7px; cursor: row-resize; border-block: 1px solid var(--line); background: var(--raised); }
.split:focus-visible { outline: 2px solid var(--brass); outline-offset: -2px; }
.card { flex: 1 1 0; min-height: 0; overflow: auto; scrollbar-width: thin; }
.band { width: max-content; position: absolute; left: calc(50% - var(--rail, 316px) / 2 - 5px); bottom: 12px; transform: translateX(-50%); display: flex;
  flex-wrap: wrap; justify-content: center; gap: 2px 6px; padding: 5px 7px; max-width: calc(100% - var(--rail, 316px) - 48px); }
.cluster { display: flex; gap: 2px; align-items: center; }
.cluster + .cluster { border-left: 1px solid var(--line); padding-left: 6px; }
.ways { position: absolute; top: 10px; left: 16px; display: flex; gap: 6px; align-items: center; padding: 5px 8px; flex-wrap: wrap;
  max-width: calc(100% - var(--rail, 316px) - 44px); }
.status { position: absolute; left: 16px; bottom: 66px; padding: 3px 9px; border-radius: 5px; background: #211a14d9; color: #f1e6d3;
  max-width: min(60ch, calc(100% - var(--rail, 316px) - 44px)); white-space: nowrap; overflow: hidden; text-overflow: ellipsis; }
.status:empty { display: none; }
.inset { position: absolute; left: 16px; border: 1px solid var(--line); border-radius: 3px; pointer-events: none; }
.ball { position: absolute; left: 16px; top: 58px; width: 104px; height: 104px; border-radius: 50%; cursor: ew-resize; pointer-events: auto; touch-action: none; outline-offset: 2px; }
.ball canvas { width: 100%; height: 100%; border-radius: 50%; display: block; }
.ball:hover { box-shadow: 0 0 0 1px var(--line); }
.ball span { position: absolute; left: calc(100% + 6px); top: 50%; transform: translateY(-50%); padding: 2px 7px; border-radius: 4px;
  background: #211a14d9; color: #f1e6d3; font-size: 11px; line-height: 1.35; white-space: nowrap; pointer-events: none; }
.inset span { position: absolute; left: 4px; bottom: 4px; padding: 0 6px; border-radius: 3px; background: #211a14d9; color: #f1e6d3;
  font-size: 11px; }
button, select, input, textarea { font: inherit; color: inherit; }
button { border: 1px solid transparent; background: none; border-radius: 5px; padding: 3px 7px; cursor: pointer; min-height: 26px;
  display: inline-flex; gap: 5px; align-items: center; justify-content: center; }
button:hover:not(:disabled) { background: var(--raised); border-color: var(--line); }
button:disabled { opacity: 0.45; cursor: default; }
button[aria-pressed='true'], button.main { background: var(--brass); color: var(--ink); }
button[aria-pressed='true']:hover, button.main:hover:not(:disabled) { background: var(--brass); filter: brightness(1.08); }
button.plain { padding: 0 3px; min-height: 20px; }
:is(button, select, input, summary, .ball, .rows, .card, pre):focus-visible { outline: 2px solid var(--brass); outline-offset: 1px; }
svg { width: 16px; height: 16px; flex: none; stroke: currentColor; fill: none; stroke-width: 1.9; stroke-linecap: round;
  stroke-linejoin: round; }
select, input[type='text'], input[type='search'] { background: var(--field); border: 1px solid var(--line); border-radius: 4px; height: 25px;
  padding: 0 6px; min-width: 0; width: 100%; }
.band select { width: 78px; } .band select[aria-label='speed'] { width: 60px; } .band button { padding: 3px 5px; min-width: 28px; } .ways select { width: auto; max-width: 132px; }
.band select, .ways select { padding: 0 2px; }
input::placeholder { color: var(--quiet); opacity: 1; }
input[type='checkbox'] { accent-color: var(--brass); width: 15px; height: 15px; margin: 0; }
input[type='range'] { accent-color: var(--brass); width: 100%; min-width: 0; margin: 0; height: 20px; }
.find { display: flex; gap: 5px; padding: 7px 8px 5px; align-items: center; }
.find select { width: 92px; flex: none; }
.rows { flex: 1; overflow: auto; position: relative; scrollbar-width: thin; outline-offset: -2px !important; }
.row { position: absolute; left: 0; right: 0; height: 25px; display: flex; align-items: center; gap: 4px; padding-right: 6px; cursor: default;
  white-space: nowrap; }
.row > .name { flex: 1; overflow: hidden; text-overflow: ellipsis; padding: 1px 2px; }
.row.hidden > .name { color: var(--quiet); font-style: italic; }
.row[aria-selected='true'] { background: color-mix(in srgb, var(--brass) 30%, transparent); }
.row.active { box-shadow: inset 2px 0 0 var(--brass); }
.row.over { box-shadow: inset 0 0 0 1px var(--brass); }
.row svg { width: 14px; height: 14px; color: var(--quiet); }
.row button svg { color: inherit; }
.row .act { opacity: 0; }
.row:hover .act, .row .act.on, .row:focus-within .act { opacity: 1; }
.row .fold { width: 18px; flex: none; padding: 0; }
.row .fold svg { transition: transform 0.1s; }
.row[aria-expanded='true'] .fold svg { transform: rotate(90deg); }
.dot { width: 6px; height: 6px; border-radius: 50%; background: var(--brass); flex: none; }
.empty { padding: 14px 12px; color: var(--quiet); }
fieldset { border: 0; border-bottom: 1px solid var(--line); margin: 0; padding: 7px 10px 10px; min-width: 0; }
legend { float: left; width: 100%; font-weight: 600; padding: 0; margin-bottom: 6px; display: flex; align-items: center; gap: 4px;
  overflow-wrap: anywhere; }
legend span { flex: 1; }
legend button { font-weight: 400; }
legend > .pass { flex: none; opacity: 0; white-space: nowrap; }
fieldset:hover > legend > .pass, fieldset:focus-within > legend > .pass { opacity: 1; }
legend > select { width: 74px; font-weight: 400; }
fieldset::after { content: ''; display: block; clear: both; }
.field { clear: both; display: grid; grid-template-columns: 112px minmax(0, 1fr) 16px; gap: 4px 6px; align-items: center; min-height: 28px; }
.field > .label { color: var(--quiet); overflow: hidden; touch-action: none; line-height: 1.25; max-height: 2.5em; }
.field > .label.drag { cursor: ew-resize; }
.field.other > .label { color: var(--text); }
.field.unsaved > .label::before { content: ''; display: inline-block; width: 6px; height: 6px; border-radius: 50%; background: var(--brass);
  margin-right: 4px; vertical-align: 1px; }
.three { display: grid; grid-template-columns: repeat(auto-fit, minmax(40px, 1fr)); gap: 3px; }
.number { position: relative; min-width: 0; }
.number input { width: 100%; font-variant-numeric: tabular-nums; padding-right: 4px; }
.number.unit input { padding-right: 26px; }
.number .sign { position: absolute; right: 6px; top: 4px; color: var(--quiet); pointer-events: none; font-size: 11px; }
.three .sign { display: none; } .three .number.unit input { padding-right: 4px; }
.number.wrong input { border-color: var(--wrong); }
.with { display: grid; grid-template-columns: minmax(0, 1fr) 74px; gap: 6px; align-items: center; }
.swatch { width: 28px; height: 25px; border: 1px solid var(--line); border-radius: 4px; padding: 0; flex: none; min-height: 0; }
.swatch:hover:not(:disabled) { border-color: var(--text); }
.color { display: flex; gap: 5px; min-width: 0; }
.picker { grid-column: 1 / -1; padding: 4px 0 8px; }
.picker hex-color-picker { width: 100%; height: 150px; }
.texture { display: flex; gap: 6px; align-items: center; min-width: 0; }
.texture img { width: 32px; height: 32px; object-fit: cover; border-radius: 3px; border: 1px solid var(--line); }
.texture span { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; flex: 1; }
.reset { opacity: 0; }
.field:hover .reset, .field:focus-within .reset { opacity: 1; }
.reset svg { width: 12px; height: 12px; }
details > summary { clear: both; cursor: pointer; color: var(--quiet); padding: 4px 0; list-style-position: inside; }
dl { display: grid; grid-template-columns: auto minmax(0, 1fr); gap: 3px 10px; margin: 0; clear: both; }
dt { color: var(--quiet); }
dd { margin: 0; overflow-wrap: anywhere; }
dd.wrong { color: var(--wrong); }
dialog { pointer-events: auto; color: var(--text); background: var(--ground); border: 1px solid var(--line); border-radius: 9px; padding: 0;
  max-width: min(760px, calc(100vw - 40px)); max-height: calc(100vh - 48px); width: 760px; box-shadow: 0 18px 60px #0009; }
dialog[open] { display: flex; flex-direction: column; }
dialog::backdrop { background: #140e0899; }
dialog > .head { display: flex; align-items: center; gap: 8px; padding: 10px 14px; border-bottom: 1px solid var(--line); }
dialog h2 { flex: 1; font-size: 15px; font-weight: 600; margin: 0; }
dialog .body { overflow: auto; padding: 12px 14px; flex: 1; }
dialog > .foot { display: flex; gap: 8px; justify-content: flex-end; padding: 10px 14px; border-top: 1px solid var(--line); flex-wrap: wrap; }
dialog > .foot button { border-color: var(--line); }
.file { border: 1px solid var(--line); border-radius: 6px; margin-bottom: 10px; overflow: hidden; }
.file > label { display: flex; gap: 8px; align-items: center; padding: 7px 10px; background: var(--raised); font-weight: 600; }
pre { margin: 0; padding: 8px 10px; overflow: auto; max-height: 300px; background: var(--field);
  font: 12px/1.45 ui-monospace, SFMono-Regular, Menlo, monospace; color: var(--text); tab-size: 2; }
pre .new { color: var(--new); } pre .gone { color: var(--gone); } pre .at { color: var(--quiet); }
.two { display: grid; grid-template-columns: 1fr 1fr; gap: 8px; } .two h3 { font-size: 12.5px; margin: 0 0 4px; }
.note { padding: 7px 10px; color: var(--quiet); margin: 0; } .note.wrong { color: var(--wrong); }
table { border-collapse: collapse; width: 100%; } td { padding: 3px 8px 3px 0; vertical-align: top; }
kbd { font: 11.5px/1.3 ui-monospace, SFMono-Regular, Menlo, monospace; background: var(--field); border: 1px solid var(--line);
  border-radius: 4px; padding: 1px 6px; white-space: nowrap; }
.columns { columns: 2; column-gap: 26px; } .columns section { break-inside: avoid; margin-bottom: 12px; }
.columns h3 { font-size: 12.5px; margin: 0 0 4px; color: var(--brass); }
.menu { position: absolute; bottom: calc(100% + 8px); left: 50%; transform: translateX(-50%); padding: 8px; display: grid; gap: 2px;
  grid-template-columns: repeat(2, max-content); }
.menu.down { bottom: auto; top: calc(100% + 8px); left: 0; transform: none; grid-template-columns: max-content; }
.menu button { justify-content: flex-start; }
.menu h3 { grid-column: 1 / -1; font-size: 11px; font-weight: 600; color: var(--quiet); margin: 4px 7px 2px; }
.anchor { position: relative; }
.graph { position: absolute; left: 10px; bottom: 58px; width: calc(100% - var(--rail, 316px) - 30px); height: min(58%, 560px); min-height: 220px; display: flex;
  flex-direction: column; overflow: hidden; z-index: 2; }
.graph-head { display: flex; gap: 4px; align-items: center; padding: 4px 8px; border-bottom: 1px solid var(--line); flex-wrap: wrap; }
.graph-head b { margin-right: 6px; } .graph-head select.part { font-weight: 600; max-width: 150px; margin-right: 2px; } .graph-head select { width: auto; } .graph .grow { flex: 1; }
.graph footer { border-top: 1px solid var(--line); padding: 5px 10px; max-height: 30%; overflow: auto; color: var(--quiet); flex: none; }
.graph footer ul { margin: 0; padding: 0; list-style: none; } .graph footer li { padding: 1px 0; color: var(--text); overflow-wrap: anywhere; }
.graph footer small { color: var(--quiet); margin-left: 8px; } .graph footer .error > button { color: var(--wrong); opacity: 1; }
.graph footer .warning > button { color: var(--brass); opacity: 1; } .graph footer .note { padding: 2px 0; }
.board { position: relative; flex: 1; overflow: hidden; background: var(--field); touch-action: none; cursor: grab; outline-offset: -2px;
  user-select: none; -webkit-user-select: none; }
.board:focus-visible { outline: 2px solid var(--brass); }
.world { position: absolute; left: 0; top: 0; transform-origin: 0 0; } .world.panned, .links.moving { will-change: transform; }
.links { position: absolute; left: 0; top: 0; width: 1px; height: 1px; display: block; contain: layout size; overflow: visible; pointer-events: none; }
.links path { fill: none; stroke: var(--quiet); stroke-width: 1.6; stroke-opacity: 0.75; }
.links path.reach { stroke: transparent; stroke-width: 12; pointer-events: stroke; cursor: copy; } .links path.near { stroke: var(--brass); stroke-width: 2.4; stroke-opacity: 1; }
.far-picture { position: absolute; transform-origin: 0 0; will-change: transform; pointer-events: none; }
.card-spot { position: absolute; cursor: grab; outline: none; } .card-spot:focus-visible { outline: 14px solid var(--brass); }
.card-node { position: absolute; background: var(--raised); border: 1px solid var(--line); border-radius: 5px; padding-bottom: 8px; cursor: default; }
.card-node.hook { border-left: 3px solid var(--brass); } .card-node.muted { opacity: 0.55; border-style: dashed; }
.card-node.chosen { border-color: var(--brass); box-shadow: 0 0 0 1px var(--brass); }
.card-node:focus-visible { outline: 2px solid var(--brass); outline-offset: 2px; }
.card-node.error { border-color: var(--wrong); border-style: double; border-width: 3px; } .card-node.warning .card-title b::after { content: ' !'; color: var(--brass); }
.card-head { display: flex; gap: 7px; height: 62px; padding: 3px 6px; align-items: center; cursor: grab; position: relative; }
.card-picture { width: 54px; height: 54px; border-radius: 3px; background: #000; flex: none; cursor: crosshair; }
span.card-picture { background: var(--field); }
.card-title { min-width: 0; display: flex; flex-direction: column; line-height: 1.25; flex: 1; }
.card-title > * { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; } .card-title span { color: var(--quiet); font-size: 11.5px; }
.card-title code { font: 11px ui-monospace, Menlo, monospace; }
.card-input { display: grid; grid-template-columns: 8px 62px minmax(0, 1fr); gap: 5px; align-items: center; height: 26px; padding: 0 8px 0 0; }
.card-input input { height: 21px; font-size: 12px; } .card-label { color: var(--quiet); overflow: hidden; text-overflow: ellipsis; white-space: nowrap; font-size: 12px; }
.port { width: 9px; height: 9px; border: 1.5px solid var(--quiet); border-radius: 2px; background: var(--field); margin-left: -5px; flex: none; }
.linked > .port { background: var(--brass); border-color: var(--brass); } .port.out { position: absolute; right: -6px; top: 17px; cursor: crosshair; transform: rotate(45deg); }
.frame { position: absolute; border: 1px dashed var(--line); border-radius: 6px; pointer-events: none; } .frame span { position: absolute; left: 8px; top: 4px; color: var(--quiet); }
.add-box { position: absolute; width: 320px; max-height: min(300px, 80%); display: flex; flex-direction: column; z-index: 3; padding: 6px; }
.add-box ul { list-style: none; margin: 4px 0 0; padding: 0; overflow: auto; flex: 1; scrollbar-width: thin; }
.add-box li { padding: 3px 6px; border-radius: 4px; display: flex; gap: 8px; cursor: default; } .add-box li span { color: var(--quiet); flex: 1; }
.add-box li[aria-selected='true'] { background: var(--brass); color: var(--ink); } .add-box li[aria-selected='true'] span { color: inherit; }
.graph-text { flex: 1; min-height: 0; display: flex; flex-direction: column; background: var(--field); }
.graph-text-head { display: flex; gap: 8px; align-items: center; padding: 3px 8px; color: var(--quiet); } .graph-text-head button { border-color: var(--line); color: var(--text); } .graph-text-head button[aria-pressed='true'] { color: var(--ink); }
.graph-field { flex: 1; min-height: 0; display: flex; border-top: 1px solid var(--line); } .graph-field > * { min-width: 0; }
.graph-fault { max-height: 34%; border-top: 2px solid var(--wrong); color: var(--wrong); flex: none; }
.graph-details { display: flex; gap: 4px; align-items: center; padding: 4px 8px; border-top: 1px solid var(--line); flex-wrap: wrap; }
.graph-details > span { color: var(--quiet); } .graph-details > .grow { flex: 1; min-width: 0; } .graph-details input { width: 118px; } .graph-details input.wide { width: 190px; flex: 0 1 230px; }
.graph-details select { width: auto; }
.graph-list { flex: 1; min-height: 0; overflow: auto; background: var(--field); outline-offset: -2px; } .graph-list table { font-size: 12px; }
.graph-list th, .graph-list td { text-align: left; vertical-align: top; padding: 5px 8px; border-bottom: 1px solid var(--line); font-weight: 400; }
.graph-list thead th { position: sticky; top: 0; background: var(--raised); color: var(--quiet); z-index: 1; } .graph-list tr.chosen th { box-shadow: inset 3px 0 var(--brass); }
.graph-list label { display: inline-flex; gap: 5px; align-items: center; margin: 0 10px 3px 0; } .graph-list label span { color: var(--quiet); } .graph-list label input { width: 128px; height: 21px; font-size: 12px; }
.graph-list th button { color: var(--text); opacity: 1; font-weight: 600; } .graph-list th button[aria-pressed='true'] { color: var(--ink); } .graph-list .error { color: var(--wrong); } .graph-list .warning { color: var(--brass); }
.graph-overview { position: absolute; right: 8px; bottom: 8px; background: var(--ground); border: 1px solid var(--line); border-radius: 4px; cursor: pointer; opacity: 0.94; box-sizing: content-box; overflow: hidden; }
.graph-overview > * { position: absolute; left: 0; top: 0; } .graph-overview .others { opacity: 0.6; } .graph-overview .seen { border: 1.5px solid var(--brass); box-sizing: border-box; will-change: transform; }
.choosing { position: absolute; border: 1px dashed var(--brass); background: #d9a95622; pointer-events: none; }
.views { display: inline-flex; border: 1px solid var(--line); border-radius: 5px; overflow: hidden; } .views button { border-radius: 0; } .views button[aria-pressed='true'] { background: var(--brass); color: var(--ink); }
.graph-head input[type='range'] { width: 74px; } .held-time { display: inline-flex; gap: 4px; align-items: center; font-variant-numeric: tabular-nums; }
.exports { right: 0; left: auto !important; width: max-content; z-index: 4; grid-template-columns: 1fr !important; } .exports > div { display: flex; gap: 6px; align-items: center; }
.exports > div > span { flex: 1; display: flex; flex-direction: column; min-width: 220px; } .exports small { color: var(--quiet); } .exports button { border-color: var(--line); }
.graph footer { display: flex; flex-wrap: wrap; gap: 0 16px; } .graph footer ul { flex: 1 0 100%; } .costs { display: flex; gap: 6px; flex-wrap: wrap; padding: 1px 0 !important; }
.log { position: absolute; left: 16px; bottom: 100px; width: min(480px, calc(100% - var(--rail, 316px) - 44px)); max-height: 52%; overflow: auto;
  padding: 8px 12px 10px; }
.log h2 { font-size: 13px; margin: 0 0 6px; } .log ul { margin: 0; padding: 0; list-style: none; }
.log li { padding: 5px 0; border-top: 1px solid var(--line); overflow-wrap: anywhere; } .log small { color: var(--quiet); display: block; }
.log dl { grid-template-columns: auto minmax(0, 1fr) auto minmax(0, 1fr); } .log p { margin: 8px 0 0; } .log p > button { border-color: var(--line); }
.log .uplot { margin: 4px 0 8px; }
.uplot, .uplot * { box-sizing: border-box; } .u-wrap { position: relative; user-select: none; }
.u-over, .u-under, .u-axis { position: absolute; } .u-under { overflow: hidden; } .u-legend { display: none; }
.uplot canvas { display: block; position: relative; width: 100%; height: 100%; }
[data-count]::after { content: attr(data-count); font-size: 11.5px; }
[data-count][aria-label='messages']::after { background: var(--wrong); color: #24120b; border-radius: 8px; padding: 0 5px; font-size: 11px; font-weight: 600; }
.light [data-count][aria-label='messages']::after { color: #fff8ec; }
.over-drop { position: absolute; inset: 6px; border: 2px dashed var(--brass); border-radius: 10px; display: grid; place-items: center;
  background: #211a1466; font-size: 16px; color: #f1e6d3; }
@media (max-width: 1100px) { .root { --rail: 272px; } .field { grid-template-columns: 84px minmax(0, 1fr) 16px; }
  .band { gap: 2px 3px; padding: 4px 5px; } .cluster { gap: 0; } .cluster + .cluster { padding-left: 3px; } .band select { width: 66px; }
  .band select[aria-label='speed'] { width: 50px; } .band button { padding: 3px; min-width: 26px; } .ways select { max-width: 104px; } }
@media (max-width: 1100px) { .graph-head { gap: 1px; padding: 3px 6px; } .graph-head > * { flex: none; } .graph-head > .grow { flex: 1; } .graph-head b { margin-right: 2px; overflow: hidden; text-overflow: ellipsis; white-space: nowrap; min-width: 60px; }
  .graph-head button { padding: 3px 5px; min-width: 0; white-space: nowrap; } .graph-head input[type='range'] { width: 46px; } .graph-head select { width: 86px; }
  .graph-details { gap: 1px; padding: 3px 6px; } .graph-details button { padding: 3px 5px; min-width: 0; } .graph-details input { width: 84px; } .graph-details input.wide { width: 100px; flex: 0 1 130px; } }
@media (max-height: 700px) { .graph { height: 66%; } .status { bottom: 60px; } }
@media (prefers-reduced-motion: reduce) { * { transition: none !important; } }
`;
