import { readColourFile } from '../../conditions/workers/colour-file';
import { answerPool } from '../../platform/workers/answer-pool';
import { findThings } from './jig-photo';
import { readPictures } from '../../records/workers/read-pictures';
import { readTable } from '../../records/workers/read-table';
import { facts } from './facts';
import { readOutline } from './outline-file';
import { panelMap } from './panel-map';
import { tryFont } from './svg';

/** A process that looks at files that come in. */
answerPool({ facts, findThings, panelMap, readColourFile, readOutline, readPictures, readTable, tryFont });
