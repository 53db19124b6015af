<script lang="ts">
  import { Modal } from 'carbon-components-svelte';

  let { open = $bindable() }: { open: boolean } = $props();

  const groups = [
    {
      name: 'On the board',
      keys: [
        ['↑ ↓ ← →', 'go to the next cell'],
        ['Shift + arrows', 'choose a rectangle'],
        ['Home, End, Page up, Page down', 'go further'],
        ['Ctrl A', 'choose all'],
        ['Space', 'leave out what is chosen, or take it in again'],
        ['Enter', 'frame the photo for the recipe, or look at it large'],
        ['I', 'look at the cell, large'],
        ['L', 'through all that need an eye'],
        ['/', 'find a name'],
        ['+ −', 'make the rows higher or lower'],
        ['Alt + ← →', 'put a column elsewhere, on its head'],
        ['E', 'change the recipe of the cell'],
        ['M', 'make what is chosen, or everything'],
        ['Esc', 'choose nothing'],
      ],
    },
    {
      name: 'On the line',
      keys: [
        ['← →', 'go to the station before or behind'],
        ['Esc', 'back to the board'],
      ],
    },
    {
      name: 'On the bench',
      keys: [
        ['↑ ↓ ← →', 'move the frame by 1 px of the rendition; with Shift by 10'],
        ['+ −', 'closer, further'],
        ['[ ]', 'straighten by half a degree'],
        ['R', 'turn by 90°'],
        ['G', 'other guides'],
        ['Enter', 'keep, and on to the next that needs an eye'],
        ['S', 'skip'],
        ['Esc', 'back to the board'],
      ],
    },
    {
      name: 'Judging sharpness, weight, color',
      keys: [
        ['↑ ↓ ← →', 'move over the picture; on the chart, numbers by quality, and from curve to curve'],
        ['B', 'before and after, blinking'],
        ['M', 'the guard’s mask; what is beyond the gamut'],
        ['D', 'what sharpening adds'],
        ['1 2', '100 or 200 %'],
        ['+ −', 'sharpen more or less'],
        ['Enter', 'on the chart: put that format and quality beside the picture'],
      ],
    },
    {
      name: 'Everywhere',
      keys: [
        ['Ctrl Z', 'undo'],
        ['?', 'this list'],
      ],
    },
  ];
</script>

<Modal bind:open passiveModal modalHeading="Keys" size="sm" on:close={() => (open = false)}>
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
  h3 { font-weight: 600; margin: 14px 0 6px; }
  h3:first-child { margin-top: 0; }
  dl { display: grid; grid-template-columns: 190px 1fr; gap: 4px 12px; }
  dt { color: var(--dim); }
</style>
