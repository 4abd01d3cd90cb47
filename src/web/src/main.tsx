import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import createCache from '@emotion/cache'
import { CacheProvider } from '@emotion/react'
import { ThemeProvider } from '@mui/material/styles'
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { BrowserRouter } from 'react-router'
import '@fontsource-variable/atkinson-hyperlegible-next/index.css'
import '@fontsource-variable/jetbrains-mono/index.css'
import './app/chiton.css'
import { waitingIn } from './app/settings'
import { theme } from './app/theme'
import { App } from './app/App'
import { Problem } from './app/api'
import { early } from './app/early'

const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content
const cache = createCache({ key: 'c', nonce })
const queries = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 30_000,
      // What is refused stays refused; a fault of the server's own may be over in a moment.
      retry: (count, error) => count < (error instanceof Problem ? (error.status >= 500 ? 2 : 0) : 30),
      retryDelay: 1000,
      refetchOnWindowFocus: false,
    },
  },
})

early(queries, window.location)
// Runs that were logged while the bench was away go up whichever page is opened.
try {
  if ((localStorage.getItem(waitingIn) ?? '[]') !== '[]') void import('./parts/log/waiting')
} catch {
  // A browser that keeps nothing has nothing that waits.
}

createRoot(document.getElementById('root')!).render(
  <StrictMode>
    <CacheProvider value={cache}>
      <ThemeProvider theme={theme} defaultMode="system" noSsr>
        <QueryClientProvider client={queries}>
          <BrowserRouter>
            <App />
          </BrowserRouter>
        </QueryClientProvider>
      </ThemeProvider>
    </CacheProvider>
  </StrictMode>,
)
