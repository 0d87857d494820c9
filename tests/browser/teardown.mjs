export default async function teardown() {
  const { site, browsers } = globalThis.umberTestServers;
  await Promise.all(browsers.map((browser) => browser.close()));
  await site.close();
}
