/** A description as XMP (ISO 16684-1, dc:description), which every format of pictures takes. */
export function described(text: string): string {
  const plain = text.replace(/[&<>]/g, (c) => `&#${c.charCodeAt(0)};`);
  return `<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">
<rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/"><dc:description><rdf:Alt>
<rdf:li xml:lang="x-default">${plain}</rdf:li></rdf:Alt></dc:description></rdf:Description></rdf:RDF></x:xmpmeta>`;
}
