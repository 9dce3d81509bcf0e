/** What the page's policy wants to see on a style that is added while it runs. */
export const nonce = () =>
  document.querySelector<HTMLMetaElement>("meta[property=csp-nonce]")?.nonce ?? undefined;
