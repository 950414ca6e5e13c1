export { Vm, PHASE, type LaneView, type VmEvent, type VmInput, type VmSnapshot } from './vm'
