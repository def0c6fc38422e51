/** Keys for what a person makes: nobody types one. */

/** A key for something new, after its name, that none of the others has. */
export function keyFor(name: string, taken: string[]): string {
  const plain = name
    .normalize("NFKD")
    .toLowerCase()
    .replaceAll(/[^a-z0-9]+/g, "-")
    .replaceAll(/^-+|-+$/g, "")
    .slice(0, 24);
  const stem = plain || "new";
  let key = stem;
  for (let number = 2; taken.includes(key); number += 1) key = `${stem}-${number}`;
  return key;
}
