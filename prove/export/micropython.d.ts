declare module '@micropython/micropython-webassembly-pyscript/micropython.mjs' {
  interface FileSystem {
    mkdir(path: string): void
    writeFile(path: string, data: string | Uint8Array): void
    readFile(path: string, options?: { readonly encoding: 'utf8' }): Uint8Array | string
  }
  interface Python { readonly FS: FileSystem, runPython(code: string): unknown }
  export function loadMicroPython(options: { readonly heapsize?: number, readonly stdout?: (line: string) => void, readonly stderr?: (line: string) => void }): Promise<Python>
}
