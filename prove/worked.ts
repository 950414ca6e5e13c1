/** Milliseconds that this process has worked: what else runs on the machine does not count. */
export function worked(): number { return process.cpuUsage().user / 1000 }
