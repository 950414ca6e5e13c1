/** A file as its text: runtimes of other languages are kept as they will be carried. */
declare module '*?raw' {
  const text: string
  export default text
}
