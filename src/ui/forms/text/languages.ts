/** Which language a text is in, by its ending and by what it begins with. */
import { json } from '@codemirror/lang-json';
import { yaml } from '@codemirror/lang-yaml';
import { StreamLanguage, type StreamParser } from '@codemirror/language';
import { c, java, shader } from '@codemirror/legacy-modes/mode/clike';
import { css } from '@codemirror/legacy-modes/mode/css';
import { javascript, typescript } from '@codemirror/legacy-modes/mode/javascript';
import { lua } from '@codemirror/legacy-modes/mode/lua';
import { properties } from '@codemirror/legacy-modes/mode/properties';
import { python } from '@codemirror/legacy-modes/mode/python';
import { shell } from '@codemirror/legacy-modes/mode/shell';
import { toml } from '@codemirror/legacy-modes/mode/toml';
import { xml } from '@codemirror/legacy-modes/mode/xml';
import type { Extension } from '@codemirror/state';

const STREAMS: Readonly<Record<string, StreamParser<unknown>>> = {
  ...{ lua, py: python, gd: python, rpy: python, sh: shell, toml },
  ...{ js: javascript, mjs: javascript, ts: typescript, nut: javascript, css },
  ...{ c, h: c, cpp: c, hpp: c, cs: java, java, as: java },
  ...{ glsl: shader, vert: shader, frag: shader, hlsl: shader, fx: shader, shader },
  ...{ ini: properties, cfg: properties, conf: properties, properties, lang: properties, desktop: properties },
  ...{ xml, svg: xml, html: xml, htm: xml, tmx: xml, tsx: xml, dae: xml, qml: javascript },
};

/** @returns undefined for plain words */
export function languageOf(name: string, text: string): Extension | undefined {
  const ending = name.slice(name.lastIndexOf('.') + 1).toLowerCase();
  if (ending === 'json' || ending === 'gltf') return json();
  if (ending === 'yaml' || ending === 'yml') return yaml();
  const stream = STREAMS[ending] ?? streamByContent(text);
  if (stream !== undefined) return StreamLanguage.define(stream);
  return /^\s*\{\s*"/.test(text) ? json() : undefined;
}

function streamByContent(text: string): StreamParser<unknown> | undefined {
  if (/^\ufeff?\s*<(\?xml|!--|!DOCTYPE|[A-Za-z][\w:-]*[\s>/])/.test(text)) return xml;
  if (/^#!.*\b(ba|z|da)?sh\b/.test(text)) return shell;
  if (/^#!.*\bpython/.test(text)) return python;
  return /^\s*(?:[;#][^\n]*\n\s*)*\[[^\]\n]+\]\s*\n\s*[\w.-]+\s*=/.test(text) ? properties : undefined;
}
