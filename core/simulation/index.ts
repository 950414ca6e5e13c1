export type { Poke } from './pokes'
export { Simulation, type RunEnd, type SimulationInput, type SimulationSnapshot } from './simulation'
export { summarise, type RunSummary } from './summary'
export { readProject, readProjectFile, type ProblemIn, type ProjectDocuments, type ProjectFile, type ProjectParts } from './project'
