import type { QueryInterface } from 'sequelize';
import { up as first } from './0001-first.ts';
import { up as importsAndHistory } from './0002-imports-and-history.ts';
import { up as audienceHistory } from './0003-audience-history.ts';
import { up as factsAndOwners } from './0004-facts-and-owners.ts';
import { up as collectionsAndSite } from './0005-collections-and-site.ts';
import { up as itemViews } from './0006-item-views.ts';
import { up as comparedTexts } from './0007-compared-texts.ts';
import { up as valuesThatDoNotFit } from './0008-values-that-do-not-fit.ts';
import { up as knownLocale } from './0009-known-locale.ts';
import { up as nestedTexts } from './0010-nested-texts.ts';
import { up as valuesOfRemovedFields } from './0011-values-of-removed-fields.ts';
import { up as changesOfMany } from './0012-changes-of-many.ts';
import { up as changeLog } from './0013-change-log.ts';
import { up as jobs } from './0014-jobs.ts';
import { up as pieces } from './0015-pieces.ts';
import { up as sharedCounts } from './0016-shared-counts.ts';
import { up as sendsInTheBackground } from './0017-sends-in-the-background.ts';
import { up as ageOfFiles } from './0018-age-of-files.ts';
import { up as sizesOfPictures } from './0019-sizes-of-pictures.ts';
import { up as releaseParts } from './0020-release-parts.ts';
import { up as contactImages } from './0021-contact-images.ts';
import { up as picturesInWidths } from './0022-pictures-in-widths.ts';
import { up as whomListsShow } from './0023-whom-lists-show.ts';

/** Forward only: a migration that was released is never edited, a new one follows it. */
export const migrations: { name: string; up: (step: { context: QueryInterface }) => Promise<void> }[] = [
  { name: '0001-first', up: ({ context }) => first(context) },
  { name: '0002-imports-and-history', up: ({ context }) => importsAndHistory(context) },
  { name: '0003-audience-history', up: ({ context }) => audienceHistory(context) },
  { name: '0004-facts-and-owners', up: ({ context }) => factsAndOwners(context) },
  { name: '0005-collections-and-site', up: ({ context }) => collectionsAndSite(context) },
  { name: '0006-item-views', up: ({ context }) => itemViews(context) },
  { name: '0007-compared-texts', up: ({ context }) => comparedTexts(context) },
  { name: '0008-values-that-do-not-fit', up: ({ context }) => valuesThatDoNotFit(context) },
  { name: '0009-known-locale', up: ({ context }) => knownLocale(context) },
  { name: '0010-nested-texts', up: ({ context }) => nestedTexts(context) },
  { name: '0011-values-of-removed-fields', up: ({ context }) => valuesOfRemovedFields(context) },
  { name: '0012-changes-of-many', up: ({ context }) => changesOfMany(context) },
  { name: '0013-change-log', up: ({ context }) => changeLog(context) },
  { name: '0014-jobs', up: ({ context }) => jobs(context) },
  { name: '0015-pieces', up: ({ context }) => pieces(context) },
  { name: '0016-shared-counts', up: ({ context }) => sharedCounts(context) },
  { name: '0017-sends-in-the-background', up: ({ context }) => sendsInTheBackground(context) },
  { name: '0018-age-of-files', up: ({ context }) => ageOfFiles(context) },
  { name: '0019-sizes-of-pictures', up: ({ context }) => sizesOfPictures(context) },
  { name: '0020-release-parts', up: ({ context }) => releaseParts(context) },
  { name: '0021-contact-images', up: ({ context }) => contactImages(context) },
  { name: '0022-pictures-in-widths', up: ({ context }) => picturesInWidths(context) },
  { name: '0023-whom-lists-show', up: ({ context }) => whomListsShow(context) },
];
