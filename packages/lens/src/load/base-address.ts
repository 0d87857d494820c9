/** What addresses are relative to. */
export const baseAddress = (): string => (typeof document === 'undefined' ? location.href : document.baseURI);
