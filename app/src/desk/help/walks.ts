import { marked, type Token, type Tokens } from 'marked';

/** One step of a walk: what to do, and the controls that it names. */
export interface Step {
  /** HTML without scripts; Angular makes it safe once more. */
  readonly html: string;
  readonly controls: readonly string[];
}

/** A walk through one task, from the guide. */
export interface Walk {
  readonly title: string;
  readonly steps: readonly Step[];
}

/** The walks of the guide, from its Markdown: each heading one, each paragraph, list item and table a step. */
export function walksOf(markdown: string): Walk[] {
  const walks: { title: string; steps: Step[] }[] = [];
  for (const token of marked.lexer(markdown)) {
    if (token.type === 'heading') walks.push({ title: plain(token as Tokens.Heading), steps: [] });
    else walks.at(-1)?.steps.push(...stepsOf(token));
  }
  return walks.filter((walk) => walk.steps.length > 0);
}

function stepsOf(token: Token): Step[] {
  if (token.type === 'list') return (token as Tokens.List).items.flatMap((item) => stepOf(item.tokens));
  if (token.type === 'paragraph' || token.type === 'table') return stepOf([token]);
  return [];
}

function stepOf(tokens: Token[]): Step[] {
  const html = marked
    .parser(tokens)
    // Pictures are of this very desk, and other pages are not here.
    .replace(/<img[^>]*>/g, '')
    .replace(/<\/?a\b[^>]*>/g, '')
    .replace(/<p>\s*<\/p>/g, '')
    .trim();
  if (html === '') return [];
  const controls: string[] = [];
  marked.walkTokens(tokens, (t) => {
    if ((t.type === 'em' || t.type === 'strong') && 'text' in t) controls.push(String(t.text));
  });
  return [{ html, controls: [...new Set(controls)] }];
}

function plain({ text }: Tokens.Heading): string {
  return text.replace(/[*_`]/g, '');
}
