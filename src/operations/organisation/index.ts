/** What is said of the organisation once, for wherever nothing nearer is known. Others come in here. */
export {
  countriesOursFirst,
  countryCodeOf,
  type Organisation,
  readOrganisation,
  saveOrganisation,
} from './organisation';
