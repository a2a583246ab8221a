-- A layout says of what does not fit how large it is, and not only how wide. What was RIPped had nothing that did not fit.
UPDATE run_plan SET placement = json_remove(json_set(placement, '$.tooLarge', json('[]')), '$.tooWide') WHERE placement IS NOT NULL;
