/** Sliders and choices in a corner of a page. */
export interface Controls {
  range(name: string, least: number, most: number, value: number, change: (value: number) => void): void;
  choice<T extends string>(name: string, choices: readonly T[], value: T, change: (value: T) => void): void;
  button(name: string, act: () => void): void;
  /** A line that says something. */
  text(name: string): HTMLElement;
}

/** Adds an empty panel of controls to the page. */
export function controlPanel(): Controls {
  const panel = document.createElement('form');
  panel.className = 'controls';
  document.body.append(panel);
  const add = (name: string, input: HTMLElement): void => {
    const label = document.createElement('label');
    label.append(name, input);
    panel.append(label);
  };
  return {
    range(name, least, most, value, change) {
      const input = document.createElement('input');
      Object.assign(input, { type: 'range', min: least, max: most, step: (most - least) / 200, value });
      input.addEventListener('input', () => change(input.valueAsNumber));
      add(name, input);
    },
    choice(name, choices, value, change) {
      const input = document.createElement('select');
      input.append(...choices.map((choice) => new Option(choice, choice, false, choice === value)));
      input.addEventListener('change', () => change(choices[input.selectedIndex]!)); // one of them
      add(name, input);
    },
    button(name, act) {
      const button = document.createElement('button');
      Object.assign(button, { type: 'button', textContent: name });
      button.addEventListener('click', act);
      panel.append(button);
    },
    text(name) {
      const output = document.createElement('output');
      add(name, output);
      return output;
    },
  };
}
