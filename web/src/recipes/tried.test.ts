import { beforeEach, describe, expect, it, vi } from 'vitest';
import { BLANK, station, typedColor, typedNumber, withStation, type Content } from './draft';
import { LineState } from './line.svelte';

beforeEach(() => {
  vi.useFakeTimers(); // nothing is asked of the server
  return () => vi.useRealTimers();
});

function at(content: Content): LineState {
  const line = new LineState(1);
  line.content = content;
  return line;
}

const size = (line: LineState) => station(line.content, 'size');
const frame = (line: LineState) => station(line.content, 'frame');
const file = (line: LineState) => station(line.content, 'file');

describe('trying something else and coming back', () => {
  it('keeps the shape through exact pixels and per cent', () => {
    const line = at(BLANK);
    line.frame('crop');
    line.change(withStation(line.content, 'frame', { ...frame(line), shape: '4:5', anchor: 'top' }));
    line.measure('exact');
    expect(frame(line)).not.toHaveProperty('shape');
    line.measure('percent');
    expect(frame(line)).toMatchObject({ way: 'crop', shape: '4:5', anchor: 'top' });
    line.frame('bounds');
    line.change(withStation(line.content, 'frame', { ...frame(line), narrowest: '3:4' }));
    line.frame('crop');
    expect(frame(line)).toMatchObject({ shape: '4:5' });
    line.frame('bounds');
    expect(frame(line)).toMatchObject({ narrowest: '3:4' });
  });

  it('keeps every measure, with what portraits have of their own', () => {
    const line = at(withStation(BLANK, 'size', { by: 'width', pixels: 1720, portrait: { pixels: 900 }, enlarge: 150 }));
    line.measure('percent');
    line.change(withStation(line.content, 'size', { ...size(line), percent: 33 }));
    line.measure('widths');
    line.measure('width');
    expect(size(line)).toEqual({ by: 'width', pixels: 1720, portrait: { pixels: 900 }, enlarge: 150 });
    line.measure('percent');
    expect(size(line)).toEqual({ by: 'percent', percent: 33, enlarge: 150 });
  });

  it('keeps a byte limit when the format changes, through one that has none', () => {
    const line = at(BLANK);
    line.weigh('limit');
    line.change(withStation(line.content, 'file', { ...file(line), under_kb: 90, lowest: 40 }));
    line.saveAs('webp');
    expect(file(line)).toEqual({ format: 'webp', under_kb: 90, lowest: 40 });
    line.saveAs('png');
    expect(file(line)).toEqual({ format: 'png' });
    line.saveAs('avif');
    expect(file(line)).toEqual({ format: 'avif', under_kb: 90, lowest: 40 });
    line.weigh('quality');
    expect(file(line)).toEqual({ format: 'avif', quality: 65 });
    line.saveAs('jpeg');
    expect(file(line)).toMatchObject({ format: 'jpeg', quality: 84 });
  });

  it('keeps what belongs to a format alone', () => {
    const line = at(withStation(BLANK, 'file', { format: 'jpeg', quality: 72, coder: 'thorough', progressive: true }));
    line.saveAs('gif');
    line.change(withStation(line.content, 'file', { ...file(line), colors: 16 }));
    line.saveAs('jpeg');
    expect(file(line)).toEqual({ format: 'jpeg', quality: 72, coder: 'thorough', progressive: true });
    line.saveAs('gif');
    expect(file(line)).toEqual({ format: 'gif', colors: 16 });
  });
});

describe('what is typed', () => {
  it.each([['12', 12], ['0,5', 0.5], ['0.5', 0.5], ['12o0', '12o0'], [' 7 ', 7], ['', '']])('%s is %s', (text, value) => expect(typedNumber(text)).toBe(value));
  it.each([['#f0a', '#ff00aa'], ['ff00aa', '#ff00aa'], ['#FF00AA', '#ff00aa'], ['pink', 'pink'], ['blur', 'blur']])('%s is the color %s', (text, value) => expect(typedColor(text)).toBe(value));
});
