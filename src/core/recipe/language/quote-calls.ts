/**
 * One kindness over plain YAML: calls and counts need no quotes anywhere, so `{ as: text(u16, utf-8) }` and
 * `{ holds: row[head.count] }` are read as they look.
 */

/**
 * Puts quotes around every unquoted value that holds a call or an index, so that the commas, colons and brackets in it
 * mean nothing to YAML. Lines stay lines; an expression must not run over several.
 *
 * @example quoteCalls('{ as: text(u16, utf-8), is: entry.path }')  // → '{ as: "text(u16, utf-8)", is: entry.path }'
 */
export function quoteCalls(text: string): string {
  let depth = 0;
  let blockIndent = -1;
  return text
    .split('\n')
    .map((line) => {
      const indent = line.length - line.trimStart().length;
      if (blockIndent >= 0) {
        if (line.trim() === '' || indent > blockIndent) return line;
        blockIndent = -1;
      }
      const result = quoteLine(line, depth);
      depth = result.depth;
      if (depth === 0 && /(^|[\s:-])[|>][+-]?\d*\s*$/.test(line)) blockIndent = indent;
      return result.text;
    })
    .join('\n');
}

function quoteLine(line: string, startDepth: number): { text: string; depth: number } {
  let depth = startDepth;
  let out = '';
  let i = 0;
  while (i < line.length) {
    const char = line[i]!;
    if (char === '#' && (i === 0 || /\s/.test(line[i - 1]!))) return { text: out + line.slice(i), depth };
    if ((char === '"' || char === "'") && standsAlone(line, closingQuote(line, i))) {
      const end = closingQuote(line, i);
      out += line.slice(i, end);
      i = end;
    } else if (char === '{' || char === '[') {
      depth++;
      out += char;
      i++;
    } else if (char === '}' || char === ']') {
      depth = Math.max(0, depth - 1);
      out += char;
      i++;
    } else if (/[\s,:]/.test(char) || (char === '-' && /\s/.test(line[i + 1] ?? ' '))) {
      out += char;
      i++;
    } else {
      const end = scalarEnd(line, i, depth > 0);
      const value = line.slice(i, end).trimEnd();
      out += /[(["]/.test(value) ? JSON.stringify(value) : value;
      i += value.length;
    }
  }
  return { text: out, depth };
}

/** True when nothing but YAML follows a quoted text: it is a value by itself, not the start of a formula. */
function standsAlone(line: string, end: number): boolean {
  return /^\s*([,:}\]#]|$)/.test(line.slice(end));
}

function closingQuote(line: string, start: number): number {
  const quote = line[start];
  for (let i = start + 1; i < line.length; i++) {
    if (line[i] === '\\' && quote === '"') i++;
    else if (line[i] === quote) return i + 1;
  }
  return line.length;
}

/** Where an unquoted scalar ends: brackets of calls and counts inside it are skipped whole. */
function scalarEnd(line: string, start: number, inFlow: boolean): number {
  let open = 0;
  for (let i = start; i < line.length; i++) {
    const char = line[i]!;
    if (char === '"' || (open > 0 && char === "'")) {
      i = closingQuote(line, i) - 1;
    } else if (char === '(' || char === '[') open++;
    else if (char === ')' || char === ']') {
      if (open === 0) return char === ']' && inFlow ? i : i + 1;
      open--;
    } else if (open === 0) {
      if (char === ':' && /\s|$/.test(line[i + 1] ?? ' ')) return i;
      if (char === '#' && /\s/.test(line[i - 1] ?? '')) return i;
      if (inFlow && (char === ',' || char === '}')) return i;
    }
  }
  return line.length;
}
