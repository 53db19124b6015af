<script lang="ts">
  import { Modal } from 'carbon-components-svelte';

  interface Props {
    title: string;
    text: string;
    /** What the button says that does it. */
    doing: string;
    ondo: () => void;
    onclose: () => void;
  }
  /** Asked before something goes that undo does not bring back. */
  let { title, text, doing, ondo, onclose }: Props = $props();

  // In this order: what is done is done to what was asked about, which is forgotten with the question.
  function go(): void {
    ondo();
    onclose();
  }
</script>

<Modal open size="xs" modalHeading={title} primaryButtonText={doing} secondaryButtonText="Cancel" selectorPrimaryFocus=".bx--btn--secondary" on:close={onclose} on:click:button--secondary={onclose} on:submit={go}>
  <p>{text}</p>
</Modal>

<style>
  p { font-size: 13px; line-height: 19px; }
</style>
