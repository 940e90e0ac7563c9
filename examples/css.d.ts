declare module '*.css'
