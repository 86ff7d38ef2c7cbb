import { loadTemplate } from './house.mjs'

/** Runs once, when the database server is up. */
export default loadTemplate
