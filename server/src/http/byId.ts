// The one of a list that has an id, after an edit that has made sure of it.
export function byId<T extends { readonly id: string }>(list: readonly T[], id: string): T {
  const found = list.find((x) => x.id === id);
  if (!found) throw new Error(`${id} is not in the list that it was just written to.`);
  return found;
}
