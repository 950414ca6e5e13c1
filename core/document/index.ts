export { quantity, point, nameText, documentText, readDocument, type Problem, type Read } from './document'
