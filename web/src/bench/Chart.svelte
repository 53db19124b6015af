<script lang="ts">
  import { trying } from '../shell/notices.svelte';
  import { bytes } from '../words/numbers';
  import { bytesAt, CONNECTIONS, FORMATS, reaching, SAME, type Format, type Point, type WeightState } from './weight.svelte';

  /** Bytes against quality, and the perceptual score beside it. */
  let { weight }: { weight: WeightState } = $props();

  const LOW = 28;
  const HIGH = 100;
  let room = $state({ width: 800, height: 220 });
  let at = $state<number>();
  /** The curve that the pointer is nearest to, or that keys go along. */
  let picked = $state<Format>();
  const COLORS: Record<Format, string> = { jpeg: 'var(--ink)', thorough: 'var(--third)', webp: 'var(--second)', avif: 'var(--accent)' };
  const DASHES: Record<Format, string> = { jpeg: '', thorough: '7 3', webp: '2 3', avif: '10 3 2 3' };

  const shown = $derived(FORMATS.filter(([format]) => weight.shown.includes(format) && weight.curves[format]?.length));
  const pad = { left: 56, right: 12, top: 22, bottom: 26 };
  const half = $derived({ width: Math.max(200, (room.width - 20) / 2), height: Math.max(120, room.height) });
  const top = $derived.by(() => {
    // Beyond 92 curves shoot up; what is usually chosen needs the room.
    const all = shown.flatMap(([format]) => (weight.curves[format] ?? []).filter((each) => each.quality <= 92).map((each) => each.bytes));
    return niceTop(Math.max(1000, ...all, weight.made?.limit ?? 0));
  });
  const limit = $derived(weight.made?.limit ?? undefined);
  const own = $derived(weight.own);
  const along = $derived([picked, own?.format, shown[0]?.[0]].find((each) => shown.some(([format]) => format === each)));

  function niceTop(value: number): number {
    const step = 10 ** Math.floor(Math.log10(value));
    return [1, 1.5, 2, 3, 4, 5, 7, 10].map((each) => each * step).find((each) => each >= value) ?? value;
  }
  const x = (quality: number) => pad.left + ((quality - LOW) / (HIGH - LOW)) * (half.width - pad.left - pad.right);
  const y = (value: number) => half.height - pad.bottom - (value / top) * (half.height - pad.top - pad.bottom);
  const s = (score: number) => half.height - pad.bottom - ((score - 40) / 60) * (half.height - pad.top - pad.bottom);
  // Curves leave the chart where they leave its range; the marks of a choice stay at its edge.
  const pin = (place: number) => Math.min(half.height - pad.bottom, Math.max(pad.top, place));
  const path = (points: readonly Point[], place: (point: Point) => number) => points.map((each, i) => `${i ? 'L' : 'M'}${x(each.quality).toFixed(1)} ${place(each).toFixed(1)}`).join('');

  function hover(event: PointerEvent, place: (format: Format, quality: number) => number | undefined): void {
    const box = (event.currentTarget as Element).getBoundingClientRect();
    const share = (event.clientX - box.left - pad.left) / (half.width - pad.left - pad.right);
    const quality = Math.round(Math.min(HIGH, Math.max(LOW, LOW + share * (HIGH - LOW))));
    const off = (format: Format) => Math.abs((place(format, quality) ?? Infinity) - (event.clientY - box.top));
    at = quality;
    picked = shown.map(([format]) => format).sort((a, b) => off(a) - off(b))[0];
  }

  function compare(): void {
    if (at !== undefined && along) void trying(() => weight.add({ format: along, quality: at ?? 0 }));
  }

  function pressed(event: KeyboardEvent): void {
    if (event.key === 'Enter') return compare();
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    const over = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    if (by !== undefined) at = Math.min(HIGH, Math.max(LOW, (at ?? own?.quality ?? 80) + by * (event.shiftKey ? 10 : 1)));
    else if (over !== undefined) {
      at ??= own?.quality ?? 80;
      picked = shown[(shown.findIndex(([format]) => format === along) + over + shown.length) % shown.length]?.[0];
    } else return;
    event.preventDefault();
  }

  /** Bytes come before scores. */
  const scored = (points: readonly Point[] = []): Point[] => points.filter((each) => each.score != null);

  function score(points: readonly Point[], quality: number): number | undefined {
    const above = points.findIndex((each) => each.quality >= quality);
    const right = points[above];
    if (!right) return undefined;
    const left = points[above - 1] ?? right;
    const share = right.quality === left.quality ? 0 : (quality - left.quality) / (right.quality - left.quality);
    return (left.score ?? 0) * (1 - share) + (right.score ?? 0) * share;
  }
  const byBytes = (format: Format, quality: number) => {
    const value = bytesAt(weight.curves[format] ?? [], quality);
    return value === undefined ? undefined : y(value);
  };
  const byScore = (format: Format, quality: number) => {
    const value = score(scored(weight.curves[format]), quality);
    return value === undefined ? undefined : s(value);
  };
  const told = $derived(
    at === undefined ? [] : shown.map(([format, title]) => ({ format, title, exact: weight.point({ format, quality: at ?? 0 }), bytes: bytesAt(weight.curves[format] ?? [], at ?? 0), score: score(scored(weight.curves[format]), at ?? 0) })),
  );
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
<div class="charts" bind:clientWidth={room.width} bind:clientHeight={room.height} tabindex="0" onkeydown={pressed} role="application" aria-label="Weight by quality; left and right give numbers, up and down another curve, Enter compares">
  <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_noninteractive_element_interactions -->
  <svg width={half.width} height={half.height} role="img" aria-label="Bytes by quality" onpointermove={(event) => hover(event, byBytes)} onpointerleave={() => (at = undefined)} onclick={compare}>
    <clipPath id="chart-range"><rect x={pad.left} y={pad.top - 1} width={half.width - pad.left - pad.right} height={half.height - pad.top - pad.bottom + 2} /></clipPath>
    <text x={pad.left} y="13" class="title">bytes by quality</text>
    {#each [0, 0.25, 0.5, 0.75, 1] as share (share)}
      <path d="M{pad.left} {y(top * share)}H{half.width - pad.right}" class="grid" /><text x={pad.left - 6} y={y(top * share) + 4} class="tick end">{bytes(top * share)}</text>
    {/each}
    {#each [30, 40, 50, 60, 70, 80, 90, 100] as quality (quality)}<text x={x(quality)} y={half.height - 8} class="tick mid">{quality}</text>{/each}
    {#if limit}<path d="M{pad.left} {y(limit)}H{half.width - pad.right}" class="limit" /><text x={half.width - pad.right} y={y(limit) - 4} class="tick end eye">limit {bytes(limit)}</text>{/if}
    {#if at !== undefined}<path d="M{x(at)} {pad.top}V{half.height - pad.bottom}" class="at" />{/if}
    {#each shown as [format] (format)}
      {@const points = weight.curves[format] ?? []}
      {@const same = reaching(points, weight.look)}
      {@const sameY = pin(y((same === undefined ? undefined : bytesAt(points, same)) ?? 0))}
      <path d={path(points, (each) => y(each.bytes))} stroke={COLORS[format]} stroke-dasharray={DASHES[format]} class="curve" clip-path="url(#chart-range)" />
      {#each points.filter((each) => each.bytes <= top) as each (each.quality)}<circle cx={x(each.quality)} cy={y(each.bytes)} r="2" fill={COLORS[format]} />{/each}
      {#if same !== undefined && bytesAt(points, same) !== undefined}<rect x={x(same) - 4.5} y={sameY - 4.5} width="9" height="9" transform="rotate(45 {x(same)} {sameY})" class="same" stroke={COLORS[format]}><title>{weight.look === SAME ? `looks the same from quality ${same}` : `a score of ${weight.look} from quality ${same}`}</title></rect>{/if}
    {/each}
    {#if own}{@const point = weight.point(own)}{#if point}<circle cx={x(own.quality)} cy={pin(y(point.bytes))} r="7" class="own"><title>the recipe’s choice</title></circle>{/if}{/if}
    {#if at !== undefined && along}{@const place = byBytes(along, at)}{#if place !== undefined}<circle cx={x(at)} cy={pin(place)} r="4" fill={COLORS[along]} />{/if}{/if}
  </svg>
  <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_noninteractive_element_interactions -->
  <svg width={half.width} height={half.height} role="img" aria-label="Perceptual score by quality" onpointermove={(event) => hover(event, byScore)} onpointerleave={() => (at = undefined)} onclick={compare}>
    <text x={pad.left} y="13" class="title">how much it looks like the picture, of 100</text>
    {#each [40, 55, 70, 85, 100] as score (score)}
      <path d="M{pad.left} {s(score)}H{half.width - pad.right}" class="grid" /><text x={pad.left - 6} y={s(score) + 4} class="tick end">{score}</text>
    {/each}
    {#each [30, 40, 50, 60, 70, 80, 90, 100] as quality (quality)}<text x={x(quality)} y={half.height - 8} class="tick mid">{quality}</text>{/each}
    <path d="M{pad.left} {s(weight.look)}H{half.width - pad.right}" class="limit" /><text x={pad.left + 6} y={s(weight.look) - 4} class="tick">{weight.look === SAME ? `looks the same, ${SAME}` : `the recipe’s look, ${weight.look}`}</text>
    {#if at !== undefined}<path d="M{x(at)} {pad.top}V{half.height - pad.bottom}" class="at" />{/if}
    {#each shown as [format] (format)}<path d={path(scored(weight.curves[format]), (each) => s(each.score ?? 0))} stroke={COLORS[format]} stroke-dasharray={DASHES[format]} class="curve" clip-path="url(#chart-range)" />{/each}
    {#if own}{@const point = weight.point(own)}{#if point?.score != null}<circle cx={x(own.quality)} cy={pin(s(point.score))} r="7" class="own" />{/if}{/if}
    {#if at !== undefined && along}{@const place = byScore(along, at)}{#if place !== undefined}<circle cx={x(at)} cy={pin(place)} r="4" fill={COLORS[along]} />{/if}{/if}
  </svg>
  {#if at !== undefined}
    <table class="told" aria-live="polite" style:left="{Math.min(x(at) + 14, half.width - 60)}px">
      <tbody>
        <tr><th colspan="3">quality {at}</th></tr>
        {#each told as row (row.format)}
          <tr class:along={row.format === along}><td>{row.title}</td><td>{row.bytes === undefined ? '—' : `${row.exact ? '' : '≈ '}${bytes(row.bytes)}`}</td><td>{row.score === undefined ? '' : row.score.toFixed(0)}</td></tr>
        {/each}
        {#each CONNECTIONS as [name, speed] (name)}
          {@const load = told.find((row) => row.format === along)?.bytes}
          {#if load !== undefined}<tr class="dim"><td>{name}</td><td>{(load / speed).toFixed(load / speed < 1 ? 2 : 1)} s</td><td></td></tr>{/if}
        {/each}
      </tbody>
    </table>
  {/if}
</div>
<div class="legend">
  {#each FORMATS as [format, title] (format)}
    <button class="pill ring" class:on={weight.shown.includes(format)} aria-pressed={weight.shown.includes(format)} onclick={() => weight.toggle(format)}>
      <svg width="26" height="8" aria-hidden="true"><path d="M1 4H25" stroke="currentColor" stroke-dasharray={DASHES[format]} stroke-width="2" /></svg> {title}
    </button>
  {/each}
  <span class="dim">◯ the recipe’s choice · ◇ {weight.look === SAME ? 'looks the same' : 'the recipe’s look'} · point at it or use arrows for numbers · press it, or Enter, to compare</span>
  {#if weight.busy}<span class="dim" role="status">Measuring…</span>{/if}
</div>

<style>
  .charts { position: relative; display: flex; gap: 20px; flex: 1; min-height: 0; outline-offset: 3px; }
  .charts > svg { flex: none; }
  .title { font-size: 12px; font-weight: 600; fill: var(--ink); }
  .tick { font-size: 11px; fill: var(--dim); font-variant-numeric: tabular-nums; }
  .end { text-anchor: end; }
  .mid { text-anchor: middle; }
  .eye { fill: var(--eye); }
  .grid { stroke: var(--line); stroke-width: 0.6; }
  .limit { stroke: var(--eye); stroke-width: 1; stroke-dasharray: 4 3; }
  .at { stroke: var(--dim); stroke-width: 1; }
  .curve { fill: none; stroke-width: 1.8; stroke-linejoin: round; }
  .same { fill: var(--sheet); stroke-width: 1.6; }
  .own { fill: none; stroke: var(--accent); stroke-width: 2.4; }
  .told { position: absolute; top: 22px; background: rgb(30 30 29 / 0.9); color: #f1f1ef; border-radius: var(--radius); padding: 4px 8px; font-size: 11px; pointer-events: none; border-collapse: separate; border-spacing: 8px 1px; }
  .told td:not(:first-child) { text-align: right; font-variant-numeric: tabular-nums; }
  .told .along { font-weight: 600; }
  .told .dim { color: #bdbdba; }
  .told th { text-align: left; }
  .legend { display: flex; gap: 6px; align-items: center; font-size: 12px; flex-wrap: wrap; }
  .legend .pill { padding: 2px 10px; display: inline-flex; gap: 6px; align-items: center; }
</style>
