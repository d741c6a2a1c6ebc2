/** Templates: writing, review by platforms, the texts made of them. Others come in here. */
export { reviewQueue } from './reviewQueue';
export { checkReviews } from './reviewRounds';
export { chargedPrices, type TemplateReaders, templateReaders } from './templateReaders';
export { checkTemplate, predictFor, receiveReviews, retireTemplate } from './templateReviews';
export { submitTemplate } from './templateSubmissions';
export {
  archiveTemplate,
  contentOf,
  createTemplate,
  getTemplate,
  listTemplates,
  saveTemplate,
  suggestedVariables,
  type TemplateEventRow,
  type TemplateKind,
  type TemplatePage,
  type TemplateRow,
  type TemplateVersionRow,
  templatePurposes,
} from './templates';
export {
  offeredTemplates,
  problemOf,
  problemsOf,
  readCatalogue,
  servedContent,
  type TemplateCatalogue,
  type TemplateChoice,
  type TemplateOffer,
  type TemplateText,
  textOf,
} from './templateTexts';
