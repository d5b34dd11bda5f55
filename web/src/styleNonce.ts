/**
 * Style elements that components add at run time carry the page's nonce, by which the browser knows
 * them from styles that somebody else has put in.
 */
const nonce = document.querySelector<HTMLMetaElement>('meta[name=style-nonce]')?.content

if (nonce) {
  const create = document.createElement.bind(document)
  document.createElement = ((name: string, options?: ElementCreationOptions) => {
    const element = create(name, options)
    if (element instanceof HTMLStyleElement) element.nonce = nonce
    return element
  }) as typeof document.createElement
}
