import { z } from 'zod';

/** What a cutter holds in its head, and how it is led. */

export const BLADES = ['drag knife', 'tangential knife', 'crease wheel', 'perforating wheel', 'pen'] as const;

export const Knife = z.object({
  blade: z.enum(BLADES).default('drag knife'),
  /** cm/s and grams, as VS and FS count in HPGL. */
  speed: z.number().min(1, 'The speed is 1 to 100 cm/s.').max(100, 'The speed is 1 to 100 cm/s.'),
  force: z.number().min(1, 'The force is 1 to 600 g.').max(600, 'The force is 1 to 600 g.'),
  /** A closed line goes on past its start by this much, mm, so that it comes free. */
  overcut: z.number().min(0, 'The overcut is 0 to 20 mm.').max(20, 'The overcut is 0 to 20 mm.'),
  /** How far the tip of a drag knife trails behind the axis that it turns about, mm. */
  offset: z.number().min(0, 'The offset is 0 to 2 mm.').max(2, 'The offset is 0 to 2 mm.').default(0),
  /** How often each line is cut. */
  passes: z.int('Whole passes.').min(1, 'A line is cut 1 to 10 times.').max(10, 'A line is cut 1 to 10 times.').default(1),
  /** At a corner sharper than this a knife is lifted, turned and set down again, degrees; 180 where it never is. */
  liftAngle: z.number().min(5, 'The lift angle is 5° to 180°.').max(180, 'The lift angle is 5° to 180°.').default(180)
});
export type Knife = z.infer<typeof Knife>;

export const KnifeChoice = z.object({ 'kiss cut': Knife, crease: Knife, perforation: Knife, 'through cut': Knife });
export type KnifeChoice = z.infer<typeof KnifeChoice>;

const drag = { blade: 'drag knife', offset: 0.25, passes: 1, liftAngle: 180 } as const;
const wheel = { offset: 0, passes: 1, liftAngle: 20, overcut: 0 } as const;
export const DEFAULT_KNIVES: KnifeChoice = {
  'kiss cut': { ...drag, speed: 40, force: 90, overcut: 0.5 },
  crease: { ...wheel, blade: 'crease wheel', speed: 30, force: 120 },
  perforation: { ...drag, speed: 20, force: 220, overcut: 0 },
  'through cut': { ...drag, speed: 15, force: 260, overcut: 0.8 }
};
