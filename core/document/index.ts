export { quantity, point, text, plainNumber, truth, nameText, documentText, readDocument, readPart, type Problem, type Read } from './document'
