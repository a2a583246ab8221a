import { call, idOf } from '$lib/server/platform/http/call';
import { Problem } from '$lib/server/platform/problem';
import { verificationReport } from '$lib/server/calibration/report';

export const GET = call(
  { summary: 'The verification of a condition as a PDF', answers: 'application/pdf' },
  async ({ shop, event }) => {
    const id = idOf(event);
    const { verify, profile } = shop.conditions.results(id);
    if (!verify) throw new Problem(409, 'This condition is not verified yet.');
    const condition = shop.conditions.get(id);
    const { white } = shop.media.get(condition.mediaId).card;
    const bytes = await verificationReport(
      shop.settings.current.shopName,
      condition,
      verify,
      profile,
      white && `L* ${white[0].toFixed(1)}, a* ${white[1].toFixed(1)}, b* ${white[2].toFixed(1)}`
    );
    return new Response(bytes, {
      headers: { 'content-type': 'application/pdf', 'content-disposition': `inline; filename="verification-${id}.pdf"` }
    });
  }
);
