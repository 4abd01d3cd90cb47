export type BenchServer = { url: string; kill(): Promise<unknown>; start(): Promise<void>; stop(): Promise<void> }
export function startServer(options?: { demo?: boolean }): Promise<BenchServer>
