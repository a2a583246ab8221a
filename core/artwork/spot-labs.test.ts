import { beforeAll, describe, expect, it } from 'vitest';
import { openBytes } from '../../tests/made/opened';
import { rawStream } from '../../tests/made/pdf';
import { madePress } from '../../tests/made/press';
import { smallPage } from '../../tests/made/small-page';
import { deltaE00, labOfRgb } from '../colour/lab';
import { openEngine, type Engine } from '../colour/lcms';
import { offsetCoated } from '../colour/conditions';
import { ModelEvaluator } from '../colour/printer-model';
import { xyzToLab, type Triple } from '../colour/lab';
import { spotLabs } from './spot-labs';

const { sources } = madePress().inks;
let engine: Engine;
beforeAll(async () => {
  engine = await openEngine();
});

function labs(resources: string, objects: string[] = []): Map<string, Triple> {
  const document = openBytes(smallPage('', resources, objects));
  const found = spotLabs(document, 0, sources, engine);
  document.destroy();
  return found;
}
const separation = (name: string, space: string, full: string) =>
  `[/Separation /${name} ${space} <</FunctionType 2/Domain[0 1]/C0[${full.replace(/\S+/g, '0')}]/C1[${full}]/N 1>>]`;
const LAB = '[/Lab <</WhitePoint[0.9642 1 0.8249]/Range[-128 127 -128 127]>>]';

describe('what a file means by a spot colour', () => {
  it('is the L*a*b* that stands there', () => {
    expect(labs(`/ColorSpace<</S ${separation('Ferry', LAB, '48.5 62.25 -31')}>>`).get('Ferry')).toEqual([48.5, 62.25, -31]);
  });

  it('is its substitute through the profile that plain colours are read with, against the perfect reflector', () => {
    const told = labs(`/ColorSpace<</S ${separation('Ferry', '/DeviceCMYK', '0 1 0 0')}>>`).get('Ferry')!;
    const press = new ModelEvaluator(offsetCoated());
    expect(deltaE00(told, xyzToLab(press.xyz(0, 1, 0, 0)))).toBeLessThan(1);
    const rgb = labs(`/ColorSpace<</S ${separation('Ferry', '/DeviceRGB', '1 0 0')}>>`).get('Ferry')!;
    expect(deltaE00(rgb, labOfRgb(255, 0, 0))).toBeLessThan(0.5);
  });

  it('is found in pictures, gradients, forms and among the inks of many', () => {
    const form = rawStream(
      `/Type/XObject/Subtype/Form/BBox[0 0 9 9]/Resources<</ColorSpace<</S ${separation('In form', LAB, '10 0 0').replace('In form', 'InForm')}>>>>`,
      ''
    );
    const image = rawStream(
      `/Type/XObject/Subtype/Image/Width 1/Height 1/BitsPerComponent 8/ColorSpace ${separation('InPicture', LAB, '20 0 0')}`,
      ' '
    );
    const found = labs(
      `/XObject<</F 5 0 R/I 6 0 R>>/Shading<</G<</ShadingType 2/ColorSpace ${separation('InGradient', LAB, '30 0 0')}/Coords[0 0 1 1]>>>>` +
        `/ColorSpace<</N [/DeviceN [/A /B] /DeviceCMYK 7 0 R <</Colorants<</A ${separation('A', LAB, '40 0 0')}>>>>]>>`,
      [form, image, rawStream('/FunctionType 4/Domain[0 1 0 1]/Range[0 1 0 1 0 1 0 1]', '{0 0}')]
    );
    expect([...found].map(([name, [l]]) => [name, l]).sort()).toEqual([
      ['A', 40],
      ['InForm', 10],
      ['InGradient', 30],
      ['InPicture', 20]
    ]);
  });

  it('is nothing where the file is broken there', () => {
    expect(
      labs('/ColorSpace<</S [/Separation /Ferry /DeviceCMYK null]/T [/Separation]/U [/Separation /X [/ICCBased 99 0 R] null]>>')
        .size
    ).toBe(0);
  });
});
