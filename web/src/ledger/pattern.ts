/** Whether a text is a pattern: * for any letters, ? for one. */
export const isPattern = (text: string) => /[*?]/.test(text);

/** Whether a word is just like a pattern; both in small letters. Takes no longer than their lengths multiplied. */
export function isLike(word: string, pattern: string): boolean {
  let [at, of, star, mark] = [0, 0, -1, 0];
  while (at < word.length) {
    if (pattern[of] === "?" || (of < pattern.length && pattern[of] !== "*" && pattern[of] === word[at])) {
      at++;
      of++;
    } else if (pattern[of] === "*") {
      star = of++;
      mark = at;
    } else if (star >= 0) {
      of = star + 1;
      at = ++mark;
    } else return false;
  }
  while (pattern[of] === "*") of++;
  return of === pattern.length;
}

/** Holds texts of several lines against what somebody looks for: any line is like the pattern, or the text stands anywhere. */
export function finder(text: string): (lines: string) => boolean {
  const wanted = text.trim().toLowerCase();
  if (!isPattern(wanted)) return (lines) => lines.includes(wanted);
  // What is told without * and ? must stand somewhere, which is seen sooner.
  const [longest] = wanted.split(/[*?]+/).sort((one, two) => two.length - one.length);
  return (lines) => {
    if (!lines.includes(longest!)) return false;
    for (let from = 0; from <= lines.length;) {
      const end = lines.indexOf("\n", from);
      if (isLike(end < 0 ? lines.slice(from) : lines.slice(from, end), wanted)) return true;
      if (end < 0) return false;
      from = end + 1;
    }
    return false;
  };
}
