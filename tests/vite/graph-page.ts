import type { Locator, Page } from 'playwright-core';
import { openByKey } from './edited-project.js';

/** What a person does with a graph that is open, by roles and names. */
export class GraphPage {
  constructor(private readonly of: () => Page) {}

  get page(): Page {
    return this.of();
  }

  button = (name: string): Locator => this.page.getByRole('button', { name, exact: true });

  card = (name: string): Locator => this.page.getByRole('group', { name: `node ${name}`, exact: true });

  field = (name: string): Locator => this.page.getByRole('textbox', { name, exact: true });

  /** Opens the graph of the material of a node. */
  async open(node: string, material: string): Promise<void> {
    const tree = this.page.getByRole('tree', { name: 'nodes' });
    if (!(await tree.isVisible())) await openByKey(this.page);
    await this.page.getByRole('treeitem', { name: node, exact: true }).click();
    await this.button(`graph of material ${material}`).click();
    await this.page.getByRole('toolbar', { name: 'graph tools' }).waitFor();
  }

  async enter(name: string, text: string): Promise<void> {
    await this.field(name).fill(text);
    await this.field(name).press('Enter');
  }

  /** Adds a node by words, the first that is offered with a call. */
  async add(words: string, call: string): Promise<void> {
    await this.button('node').click();
    await this.choose(words, call);
  }

  /** Takes the first offer of an open list. */
  async choose(words: string, call: string): Promise<void> {
    await this.page.getByRole('combobox', { name: 'add a node' }).fill(words);
    const offers = this.page.getByRole('listbox', { name: 'nodes that can be added' });
    await offers.getByRole('option').filter({ hasText: call }).first().waitFor();
    await this.page.keyboard.press('Enter');
  }

  /** Until the findings have a text: what the compiler says comes after a rest. */
  async finds(text: string): Promise<void> {
    const footer = this.page.getByRole('region', { name: 'graph' }).locator('footer');
    await footer.filter({ hasText: text }).waitFor({ timeout: 45_000 });
  }

  async drag(from: Locator, to: Locator, shift: [x: number, y: number] = [0, 0]): Promise<void> {
    const [a, b] = [(await from.boundingBox())!, (await to.boundingBox())!]; // they are drawn
    const { mouse } = this.page;
    await mouse.move(a.x + a.width / 2, a.y + Math.min(a.height / 2, 14));
    await mouse.down();
    await mouse.move(b.x + b.width / 2 + shift[0], b.y + b.height / 2 + shift[1], { steps: 6 });
    await mouse.up();
  }

  /** The middle of a link, on the screen: from a node's port to an input. */
  async between(port: Locator, input: Locator): Promise<[x: number, y: number]> {
    const [a, b] = [(await port.boundingBox())!, (await input.locator('.port').boundingBox())!]; // as above
    return [(a.x + a.width / 2 + b.x + b.width / 2) / 2, (a.y + a.height / 2 + b.y + b.height / 2) / 2];
  }

  port = (name: string): Locator => this.card(name).locator('.port.out');

  input = (...path: (string | number)[]): Locator =>
    this.page.locator(`[data-input='${JSON.stringify(path)}']`);
}
