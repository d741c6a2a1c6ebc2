/** What frames every page: what needs attention, search, kept views, the name of the installation. Others come in here. */
export { getAttention } from './attention';
export { getInstallation, nameInstallation } from './installation';
export { keepListView, type ListView, listViews, removeListView } from './listViews';
export { searchEverything } from './search';
