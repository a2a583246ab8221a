import { describe, expect, it } from 'vitest';
import { DEFAULT_RULES } from '../roles';
import { readSvg } from './source';

const read = (
  body: string,
  head = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink">',
  fonts: string[] = []
) => readSvg(`${head}${body}</svg>`, DEFAULT_RULES, new Set(fonts));

describe('an SVG made ready for the normaliser', () => {
  it('keeps what is SVG, whatever its prefix, and leaves out the rest', () => {
    const head = '<v:svg xmlns:v="http://www.w3.org/2000/svg" xmlns:x="urn:other" x:note="1" onload="evil()">';
    const { body, root } = readSvg(
      `${head}<v:script>evil()</v:script><x:thing><v:rect/></x:thing><v:g x:y="1" onclick="evil()"><v:rect width="3"/></v:g><v:metadata><x:z/></v:metadata></v:svg>`,
      [],
      new Set()
    );
    expect(body).toBe('<g><rect width="3"></rect></g>');
    expect(root).toEqual({});
  });

  it('leaves a web page in the drawing out, and says so where nothing stands in for it', () => {
    const html = '<foreignObject><div xmlns="http://www.w3.org/1999/xhtml">Tide</div></foreignObject>';
    expect(read(`<switch>${html}<g id="a"/></switch>`)).toMatchObject({ body: '<switch><g id="a"></g></switch>', findings: [] });
    // Its place is kept.
    const { body, findings } = read(html.replace('<foreignObject', '<foreignObject x="1" y="2" width="3" height="4"'));
    expect(findings).toEqual([{ kind: 'html', what: '', id: 'zing-mast-0-1' }]);
    expect(body).toBe('<rect id="zing-mast-0-1" x="1" y="2" width="3" height="4" fill="none"></rect>');
  });

  it('settles abbreviations of its own, and never follows those that name a file', () => {
    const doctype = (entity: string) => `<!DOCTYPE svg [<!ENTITY ${entity}>]><svg xmlns="http://www.w3.org/2000/svg" id="&a;"/>`;
    expect(readSvg(doctype('a "b&#38;c"'), [], new Set()).root).toEqual({ id: 'b&c' });
    expect(() => readSvg(doctype('a SYSTEM "file:///etc/hostname"'), [], new Set())).toThrow(/broken in line 1/);
    const growing = Array.from({ length: 30 }, (_, i) => `<!ENTITY e${i + 1} "&e${i};&e${i};">`).join('');
    expect(() => readSvg(`<!DOCTYPE svg [<!ENTITY e0 "tide">${growing}]><svg id="&e30;"/>`, [], new Set())).toThrow(
      /without end/
    );
  });

  it('keeps letters of every kind', () => {
    const { body, characters } = read('<text id="t">&#321;ód&#x17a; Ω &lt;&amp;&gt; <tspan>“x”</tspan></text><text>ó‽</text>');
    expect(body).toBe('<text id="t">Łódź Ω &lt;&amp;&gt; <tspan>“x”</tspan></text><text id="zing-mast-0-1">ó‽</text>');
    // Each with where it first stands.
    expect([...characters]).toEqual([...[...'ŁóźΩ“”'].map((one) => [one, 't']), ['‽', 'zing-mast-0-1']]);
  });

  it('says in which line it is broken', () => {
    expect(() => read('\n\n<g><rect></g>')).toThrow('The SVG is broken in line 3. Ask for a new copy.');
    expect(() => readSvg('<svg xmlns="http://www.w3.org/2000/svg"><g>', [], new Set())).toThrow(/broken/);
    expect(() => readSvg('<note/>', [], new Set())).toThrow(/no drawing in it/);
    expect(() => read('<g>'.repeat(2000) + '</g>'.repeat(2000))).toThrow(/nests/);
  });

  it('reads no picture but those in the file', () => {
    const png = 'data:image/png;base64,iVBORw0KGgo=';
    const { body, findings } = read(
      `<image href="${png}"/><image xlink:href="/etc/secret.png" x="1" y="2" width="3" height="4"/><image href="https://example.org/a.jpg?x=1"/><filter id="f"><feImage href="file:///etc/passwd"/></filter>`
    );
    expect(body).toContain(png);
    expect(body).not.toMatch(/etc\/|example/);
    expect(findings.map(({ kind, what }) => [kind, what])).toEqual([
      ['picture', 'secret.png'],
      ['picture', 'a.jpg?x=1'],
      ['picture', 'passwd']
    ]);
    // Its place is kept.
    expect(body).toContain(`<rect id="${findings[0]?.id}" x="1" y="2" width="3" height="4" fill="none">`);
  });

  it('keeps pixels whatever they are called, and nothing that is neither pixels nor a drawing', () => {
    const png = 'iVBORw0KGgo=';
    for (const name of ['', 'image/x-png', 'text/plain', 'application/octet-stream'])
      expect(read(`<image href="data:${name};base64,${png}"/>`).body).toContain(`"data:image/png;base64,${png}"`);
    expect(read(`<image href="data:;base64,${btoa('no picture')}"/>`).findings).toMatchObject([{ what: 'in the file' }]);
  });

  it('holds a drawing in the drawing to the same rules', () => {
    const inner = '<svg xmlns="http://www.w3.org/2000/svg"><script/><image href="/etc/passwd"/><rect width="2"/></svg>';
    for (const address of [
      `data:image/svg+xml;base64,${btoa(inner)}`,
      `data:image/svg+xml;utf8,${encodeURIComponent(inner)}`,
      // Under another name it is a drawing all the same.
      `data:text/plain;base64,${btoa(inner)}`,
      `data:,${encodeURIComponent(inner)}`
    ]) {
      const { body, findings } = read(`<image href="${address}"/>`);
      const kept = atob(/base64,([^"]*)/.exec(body)?.[1] ?? '');
      expect(kept).toContain('<rect width="2">');
      expect(kept).not.toMatch(/script|passwd"/);
      expect(findings).toMatchObject([{ kind: 'picture', what: 'passwd' }]);
    }
  });

  it('tells what is for a tool by id, class, label or name, and gives it an id', () => {
    const { body, roles } = read(
      '<g inkscape:label="Cut line"><path d="M0 0"/></g><path id="Perforation"/><path class="a varnish"/><path data-name="no role"/>'
    );
    expect([...roles.values()]).toEqual([
      { name: 'Cut line', tool: true },
      { name: 'Perforation', tool: true },
      { name: 'varnish', tool: false }
    ]);
    for (const id of roles.keys()) expect(body).toContain(`id="${id}"`);
  });

  it('gives every list of fonts one that is there, and notes those that are not', () => {
    const { body, findings, hasText } = read(
      `<style>.a{font-family:'Harbour Script', serif; font: bold 12px "Pilot Mono"}</style><g font-family="Quay Sans"><text>a</text></g><text style="font-family:Arial">b</text><text font-family="Lamp">c</text><text font-family="monospace">d</text>`,
      undefined,
      ['lamp']
    );
    expect(body).toContain('font-family:Harbour Script, Tinos, Arimo');
    expect(body).toContain('font: bold 12px Pilot Mono, Cousine');
    expect(body).toContain('font-family="Quay Sans, Arimo"');
    expect(body).toContain('font-family="Cousine');
    // What no lettering uses is not told.
    expect(findings.map(({ what }) => what)).toEqual(['Quay Sans\nArimo']);
    expect(hasText).toBe(true);
    // The maker's own second choice stands in where it is there.
    expect(read('<text font-family="Quay, Times New Roman, sans-serif">a</text>')).toMatchObject({
      body: '<text font-family="Quay, Times New Roman, Tinos, Arimo" id="zing-mast-0-1">a</text>',
      findings: [{ what: 'Quay\nTinos' }]
    });
  });

  it('tells fonts of style sheets where they count, as far as the rules are plain', () => {
    const text = (words: string, attributes = '') => `<text id="${words}" ${attributes}>${words}</text>`;
    const fonts = (css: string, body: string) =>
      read(`<style>${css}</style>${body}`).findings.map(({ what, id }) => [what.split('\n')[0], id]);
    const css = `.a, .b { fill: red; font: bold 12px/1.2 "Berth Sans" } /* .c{font-family:No} */ .b{font-family:Pilot} text{font-family:Wharf} #x{font-family:Buoy}`;
    expect(fonts(css, text('one', 'class="q a"') + text('two', 'class="b a"') + text('three') + text('x', 'class="a"'))).toEqual([
      ['Berth Sans', 'one'],
      ['Pilot', 'two'],
      ['Wharf', 'three'],
      ['Buoy', 'x']
    ]);
    // The element's own style counts more than any rule, its attribute less; parts of a text have fonts of their own.
    expect(fonts(css, text('own', 'class="a" style="font-family:Own"') + text('less', 'font-family="Less"'))).toEqual([
      ['Own', 'own'],
      ['Wharf', 'less']
    ]);
    expect(
      fonts('.p{font-family:Part}', '<text id="t">a<tspan class="p">b</tspan> <tspan font-family="Blank"> </tspan></text>')
    ).toEqual([['Part', 't']]);
    // Inherited from the group.
    expect(fonts('.g{font-family:Group}', `<g class="g">${text('t')}</g>`)).toEqual([['Group', 't']]);
    // What is not plain, or comes after the lettering, is told without a place rather than not at all.
    expect(fonts('g > text.a{font-family:Deep}', text('t'))).toEqual([['Deep', undefined]]);
    expect(read(`${text('t', 'class="late"')}<style>.late{font-family:Late}</style>`).findings).toEqual([
      { kind: 'font', what: 'Late\nArimo', id: undefined }
    ]);
  });

  it('takes out the fonts that the file holds', () => {
    const { fonts, findings, body } = read(
      `<text font-family="Held">a</text><style>@import url(http://example.org/x.css); @font-face{font-family:"Held";src:url(data:font/woff2;base64,AAEC)} .b{fill:red}</style>`
    );
    expect(fonts).toEqual([{ family: 'Held', data: Uint8Array.from([0, 1, 2]) }]);
    expect(findings).toEqual([]);
    expect(body).toContain('.b{fill:red}');
    expect(body).not.toContain('example');
  });
});
