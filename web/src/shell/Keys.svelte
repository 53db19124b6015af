<script lang="ts">
  import { Modal, Toggle } from 'carbon-components-svelte';
  import { onEscape } from './escape';
  import { letters } from './keys.svelte';
  import { steps } from './steps.svelte';

  let { open = $bindable() }: { open: boolean } = $props();

  const groups = [
    {
      name: 'On the board',
      keys: [
        ['↑ ↓ ← →', 'go to the next cell'],
        ['Shift + arrows', 'choose a rectangle'],
        ['Home, End, Page up, Page down', 'go to the ends of a row, or a page on'],
        ['Ctrl Home, Ctrl End', 'go to the first cell, or the last'],
        ['Ctrl A', 'choose all that is shown'],
        ['Space', 'leave out the selection, or take it in again'],
        ['Enter', 'place the crop, or look at the cell closely'],
        ['I', 'look at the cell closely'],
        ['L', 'go through the photos that need a crop'],
        ['/', 'find a name'],
        ['+ −', 'taller or shorter rows'],
        ['Alt + ← →', 'on a column’s head: move the column'],
        ['E', 'change the recipe of the cell'],
        ['M', 'make the selection, or all that is shown; asks first when it is much'],
        ['1 to 9', 'make the chosen photos by the recipe of that column'],
        ['Shift + 1 to 9', 'choose a column'],
        ['Esc', 'clear the selection'],
      ],
    },
    {
      name: 'On the sheet of words',
      keys: [
        ['↑ ↓ ← →, Tab', 'go to the next cell; with Shift and arrows choose more'],
        ['Enter, F2, or any letter', 'type; Enter keeps it and goes to the next photo, Tab to the next word'],
        ['Shift Enter', 'a new line, while typing'],
        ['Ctrl D', 'the same as in the first chosen row, or the row above'],
        ['Ctrl C, Ctrl V', 'copy to a spreadsheet, and paste from one'],
        ['Delete', 'clear what is chosen'],
        ['Alt + ↑ ↓', 'move the chosen photos; {n} in names follows'],
        ['Esc', 'do not keep what is being typed; back to the board'],
      ],
    },
    {
      name: 'On the list of questions',
      keys: [
        ['↑ ↓', 'go to the next question'],
        ['N, R, K', 'give a new name, replace the file, keep the old one; with Shift for all of the recipe'],
        ['L', 'place the crops'],
      ],
    },
    {
      name: 'On the line',
      keys: [
        ['← →', 'previous or next station'],
        ['↑ ↓ ← →', 'on the ring of a mark: move the mark; with Shift further'],
        ['Esc', 'back to the board'],
      ],
    },
    {
      name: 'On the bench',
      keys: [
        ['↑ ↓ ← →', 'move the frame by 1 px of the rendition; with Shift by 10'],
        ['+ −', 'zoom in, zoom out'],
        ['[ ]', 'straighten by half a degree'],
        ['R', 'turn by 90°'],
        ['G', 'next guides'],
        ['Enter', 'keep, and on to the next that needs a crop'],
        ['S', 'skip to the next'],
        ['Esc', 'back to the board'],
      ],
    },
    {
      name: 'In a rehearsal',
      keys: [
        ['← →', 'next variant, or the one before'],
        ['↑ ↓', 'photo before, or the next one'],
        ['1, 2, 3', 'at 100 %, on its page, on a phone'],
        ['Esc', 'back to the outlet'],
      ],
    },
    {
      name: 'The outline of an object',
      keys: [
        ['N, P', 'go to the next point, or the one before'],
        ['↑ ↓ ← →', 'move the chosen point by 1 px of the photo; with Shift by 10'],
        ['A', 'add a point behind it'],
        ['C', 'make it a corner, or smooth'],
        ['Delete', 'remove it; with Shift its whole path'],
        ['+ − 0', 'zoom in, zoom out, the whole photo'],
        ['F', 'find the outline anew'],
        ['Enter', 'keep, and on to the next that is not certain'],
        ['S', 'skip to the next'],
      ],
    },
    {
      name: 'Light and color of a photo',
      keys: [
        ['↑ ↓', 'change the number in focus; with Shift coarsely'],
        ['↑ ↓ ← →', 'move the cast, or a point of the curve; Delete takes a point away'],
        ['G', 'pick something that is grey'],
        ['B', 'as shot, and back'],
        ['C', 'paint what is lost at the ends'],
        ['P', 'propose values from the picture'],
        ['Enter', 'keep, and on to the next photo'],
      ],
    },
    {
      name: 'Judging sharpness, weight, color',
      keys: [
        ['↑ ↓ ← →', 'move over the picture; on the chart, along a curve and from curve to curve'],
        ['B', 'blink before and after'],
        ['M', 'show the guard’s mask, or what is outside the gamut'],
        ['D', 'show what sharpening adds'],
        ['1 2', '100 or 200 %'],
        ['+ −', 'sharpen more or less'],
        ['Enter', 'on the chart: put that format and quality beside the picture'],
      ],
    },
    {
      name: 'Everywhere',
      keys: [
        ['Ctrl Z', 'undo'],
        ['Ctrl Shift Z', 'redo'],
        ['Esc', 'close the innermost: menu, field, panel, selection, page'],
        ['?', 'this list'],
      ],
    },
  ];

  $effect(() => (open ? onEscape(() => void (open = false)) : undefined));
</script>

<Modal bind:open passiveModal modalHeading="Keys" size="sm" on:close={() => (open = false)}>
  {#if !steps.open}<p><button class="plain" onclick={() => { steps.again(); open = false; }}>Show the first steps on the board again</button></p>{/if}
  <Toggle labelText="Single-letter keys" labelA="Off" labelB="On" size="sm" toggled={letters.on} on:toggle={(event) => letters.set(event.detail.toggled)} />
  {#each groups as group (group.name)}
    <h3>{group.name}</h3>
    <dl>
      {#each group.keys as [keys, does] (keys)}
        <dt>{keys}</dt>
        <dd>{does}</dd>
      {/each}
    </dl>
  {/each}
</Modal>

<style>
  p { margin-bottom: 12px; }
  h3 { font-weight: 600; margin: 14px 0 6px; }
  h3:first-child { margin-top: 0; }
  dl { display: grid; grid-template-columns: 190px 1fr; gap: 4px 12px; }
  dt { color: var(--dim); }
</style>
