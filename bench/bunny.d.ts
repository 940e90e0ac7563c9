declare module 'bunny' {
  const scan: { readonly positions: number[][]; readonly cells: number[][] }
  export default scan
}
