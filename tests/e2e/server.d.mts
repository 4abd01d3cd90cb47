export type BenchServer = {
  url: string
  folder: string
  kill(): Promise<unknown>
  end(): Promise<unknown>
  start(): Promise<void>
  stop(): Promise<void>
}
export type Warm = {
  start(id: string, args: string[]): Promise<unknown>
  stop(id: string): Promise<unknown>
  end(): Promise<unknown>
}
export function startWarm(): Warm
export function startServer(options?: { demo?: boolean; warm?: Warm }): Promise<BenchServer>
