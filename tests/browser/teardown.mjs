export default async function teardown() {
  const { site, browser } = globalThis.umberTestServers;
  await browser.close();
  await site.close();
}
