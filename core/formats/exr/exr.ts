// OpenEXR: read with every compression, as scan lines or tiles, in one part or several, flat or deep; written without
// loss.
// Source: "OpenEXR File Layout" and "Technical Introduction to OpenEXR" (openexr.com documentation).
export { attributeValue, floatAttribute, stringAttribute, type ExrAttribute } from './attributes'
export { COMPRESSIONS, WRITTEN, type Compression } from './block'
export { boxHeight, boxWidth, emptyWindow, isExr, readExrHeaders, type Box } from './header'
export type { ExrType } from './planes'
export { openExr, readExr, readExrLater, readExrParts, type OpenedExr } from './read'
export type { ExrChannel, ExrImage, ExrPart } from './together'
export { writable, writeExr, writeExrParts } from './write'
