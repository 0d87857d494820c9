/** A name that is not taken: with another number, where it ends with one. @param between what stands before the number */
export function freeName(wanted: string, isTaken: (name: string) => boolean, between = ' '): string {
  if (!isTaken(wanted)) return wanted;
  const stem = between === '' ? wanted : wanted.replace(/ \d+$/, '');
  for (let i = 2; ; i++) if (!isTaken(`${stem}${between}${i}`)) return `${stem}${between}${i}`;
}
