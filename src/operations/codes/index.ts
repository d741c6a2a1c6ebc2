/** Codes that show whether somebody reads what arrives at a number. Others come in here. */
export { type CodeRequest, type CodeView, checkCode, checkVisitorCode, createCode, endCodes, getCode } from './codes';
