import { answerPool } from '../../platform/workers/answer-pool';
import { lookAtRecords, overlays, picturesAsked, recordLines, recordPictures } from '../../records/workers/records';
import { colourAt, inksDrawn, spotLabsOf } from './colours';
import { compare } from './compare';
import { detail } from './detail';
import { layers } from './layers';
import { measure, preview } from './measure';
import { field, trace } from './trace';

/** A process that draws customers' files, and measures what it drew. */
answerPool({
  colourAt,
  compare,
  detail,
  field,
  inksDrawn,
  layers,
  lookAtRecords,
  measure,
  overlays,
  picturesAsked,
  preview,
  recordLines,
  recordPictures,
  spotLabsOf,
  trace
});
