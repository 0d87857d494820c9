/** A graph with settings, notes, comments, places and a frame: a rim of light. */
export const RIM = `{
  "graph": 1,
  "note": "A rim of light.",
  "settings": {
    "edge": { "type": "f32", "value": 2.5, "range": [0.5, 6], "note": "how fast it falls off" }, // by eye
    "glow": { "type": "color", "value": "#ffb46a" },
  },
  "nodes": {
    "facing": { "call": "dot", "in": ["@p.normal", "@p.toCamera"] },
    "inside": { "call": "saturate", "in": ["@facing"], "note": "none from behind" },
    "rim": { "call": "pow", "in": [{ "call": "-", "in": [1, "@inside"] }, "@settings.edge"] },
    "light": { "call": "*", "in": ["@settings.glow", "@rim"] }
  },
  "hooks": { "surface": { "emissive": "@light", "alpha": "@rim" } },
  "layout": { "facing": [40, 60], "rim": [200, 60] },
  "frames": { "the rim": { "nodes": ["inside", "rim"] } }
}
`;
