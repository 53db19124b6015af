import type { Schemas } from '../api/client';

export type Points = [number, number][];
export type Values = Record<string, number | string | boolean | Points>;

/** One tone of a photo. The first is the photo's own, without a title, for all recipes that follow no other. */
export interface Look {
  title: string;
  recipes: number[];
  values: Values;
}

const same = (one: unknown, other: unknown): boolean => JSON.stringify(one) === JSON.stringify(other);

/** Without what is neutral, in the order in which the server writes it. */
export function toneOf(values: Values, neutral: Values): Values {
  return Object.fromEntries(Object.keys(neutral).flatMap((name) => {
    const value = values[name];
    return value === undefined || same(value, neutral[name]) ? [] : [[name, value]];
  }));
}

export function keptLooks(found: Schemas['ToneOut']): Look[] {
  const neutral = found.neutral as Values;
  const own = { title: '', recipes: [], values: { ...neutral, ...(found.tone as Values) } };
  return [own, ...found.looks.map((look) => ({ title: look.title, recipes: look.recipes, values: { ...neutral, ...(look.tone as Values) } }))];
}

/** As they are sent: the photo's own tone, and the others. */
export function sentLooks(looks: Look[], neutral: Values): { tone: Values; looks: Schemas['LookData'][] } {
  const [own, ...others] = looks;
  return { tone: toneOf(own?.values ?? {}, neutral), looks: others.map(({ title, recipes, values }) => ({ title, recipes, tone: toneOf(values, neutral) })) };
}

export function sameLooks(one: Look[], other: Look[], neutral: Values): boolean {
  return same(sentLooks(one, neutral), sentLooks(other, neutral));
}

/** With a recipe that follows the look at a place, and none of the others; or no longer. */
export function tied(looks: Look[], at: number, recipe: number, on: boolean): Look[] {
  return looks.map((look, place) => {
    const others = look.recipes.filter((each) => each !== recipe);
    return { ...look, recipes: on && place === at ? [...others, recipe] : others };
  });
}
