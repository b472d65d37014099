declare module '*.svg' {
  const text: string;
  export default text;
}
