/** A file's text, as Vite gives it. */
declare module '*?raw' {
  const text: string
  export default text
}
