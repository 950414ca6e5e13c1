export { quantity, point, text, plainNumber, truth, nameText, documentText, extent, readDocument, readPart, type Problem, type Read, type ReadBy, type Reads } from './document'
