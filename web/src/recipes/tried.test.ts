import { describe, expect, it } from 'vitest';
import { BLANK, framedBy, measuredBy, NOTHING_TRIED, remembered, savedAs, station, typedColor, typedNumber, weighedBy, withStation, type Content, type Tried } from './draft';

/** Somebody at the line: every change is remembered, as the line does it. */
class Line {
  tried: Tried = NOTHING_TRIED;
  content: Content;

  constructor(content: Content) {
    this.content = content;
  }

  change(content: Content): void {
    this.tried = remembered(remembered(this.tried, this.content), content);
    this.content = content;
  }

  measure(by: string): void {
    this.change(measuredBy(this.content, by, this.tried));
  }

  frame(way: string): void {
    this.change(framedBy(this.content, way, this.tried));
  }

  saveAs(format: string): void {
    this.change(withStation(this.content, 'file', savedAs(station(this.content, 'file') ?? {}, format, this.tried)));
  }

  weigh(way: string): void {
    this.change(withStation(this.content, 'file', weighedBy(station(this.content, 'file') ?? {}, way, this.tried)));
  }
}

const size = (line: Line) => station(line.content, 'size');
const frame = (line: Line) => station(line.content, 'frame');
const file = (line: Line) => station(line.content, 'file');

describe('trying something else and coming back', () => {
  it('keeps the shape through exact pixels and per cent', () => {
    const line = new Line(BLANK);
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
    const line = new Line(withStation(BLANK, 'size', { by: 'width', pixels: 1720, portrait: { pixels: 900 }, enlarge: 150 }));
    line.measure('percent');
    line.change(withStation(line.content, 'size', { ...size(line), percent: 33 }));
    line.measure('widths');
    line.measure('width');
    expect(size(line)).toEqual({ by: 'width', pixels: 1720, portrait: { pixels: 900 }, enlarge: 150 });
    line.measure('percent');
    expect(size(line)).toEqual({ by: 'percent', percent: 33, enlarge: 150 });
  });

  it('keeps a byte limit when the format changes, through one that has none', () => {
    const line = new Line(BLANK);
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
    const line = new Line(withStation(BLANK, 'file', { format: 'jpeg', quality: 72, coder: 'thorough', progressive: true }));
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
