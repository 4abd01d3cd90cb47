export type BenchServer = {
  url: string
  folder: string
  kill(): Promise<unknown>
  end(): Promise<unknown>
  start(): Promise<void>
  stop(): Promise<void>
}
export function startServer(options?: { demo?: boolean }): Promise<BenchServer>
