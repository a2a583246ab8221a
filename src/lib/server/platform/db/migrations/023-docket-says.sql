-- Which dockets are to lie in a jig: few say one, and those of a jig are looked at again when it changes.
CREATE INDEX docket_jig ON docket (json_extract(choices, '$.jig.id')) WHERE json_extract(choices, '$.jig.id') IS NOT NULL;
-- And those that say themselves how long their plates are kept.
CREATE INDEX docket_plates_kept ON docket (json_extract(choices, '$.platesKept')) WHERE json_extract(choices, '$.platesKept') != 'as the shop';
