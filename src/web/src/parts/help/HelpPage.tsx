import { useEffect, useState } from 'react'
import Markdown from 'react-markdown'
import remarkGfm from 'remark-gfm'
import { Link, useLocation, useNavigate, useParams } from 'react-router'
import Button from '@mui/material/Button'
import { useHelp } from '../../app/help'
import { Moment } from '../../shared/Moment'

/** The guide, the language and what is looked for, searched as one types. */
export default function HelpPage() {
  const { name = 'guide' } = useParams()
  const { hash } = useLocation()
  const navigate = useNavigate()
  const help = useHelp()
  const [text, setText] = useState('')
  const page = help.data?.pages.find((p) => p.name === name)
  const words = text.toLowerCase().split(' ').filter(Boolean)
  const found =
    words.length === 0
      ? null
      : (help.data?.pages ?? []).flatMap((p) =>
          p.sections.filter((s) => words.every((w) => `${s.title} ${s.text}`.toLowerCase().includes(w))).map((s) => ({ ...s, page: p })),
        )
  useEffect(() => {
    if (page && hash) document.getElementById(decodeURIComponent(hash.slice(1)))?.scrollIntoView()
  }, [page, hash])

  if (help.isError) return <main className="page">The help could not be fetched. Is the bench still running?</main>
  if (!help.data) return <Moment />
  return (
    <main className="page help">
      <div className="row no-print">
        {help.data.pages.map((p) => (
          <Link key={p.name} to={`/help/${p.name}`} className="tab" aria-current={p.name === name && !found ? 'page' : undefined}>
            {p.title}
          </Link>
        ))}
        <span className="push" />
        <label className="row">
          Search{' '}
          <input
            className="figure"
            type="search"
            value={text}
            onChange={(e) => setText(e.target.value)}
            style={{ width: 200, textAlign: 'left' }}
          />
        </label>
        <Button onClick={() => (window.history.length > 1 ? navigate(-1) : navigate('/'))}>Back</Button>
      </div>
      {found ? (
        <section aria-label="Found" aria-live="polite">
          <p className="lead">{found.length === 0 ? 'Nothing in the help says that. Try one word less.' : `${found.length} found`}</p>
          {found.map((s) => (
            <article key={s.page.name + s.id}>
              <h2 className="small-head">
                <Link to={`/help/${s.page.name}#${s.id}`} onClick={() => setText('')}>
                  {s.page.title}: {s.title}
                </Link>
              </h2>
              <Text>{s.text}</Text>
            </article>
          ))}
        </section>
      ) : page ? (
        <>
          <h1 className="page-title">{page.title}</h1>
          <nav aria-label="Contents" className="row no-print" style={{ gap: '2px 16px', marginBottom: 10 }}>
            {page.sections.map((s) => (
              <Link key={s.id} to={`#${s.id}`} className="fine">
                {s.title}
              </Link>
            ))}
          </nav>
          {page.sections.map((s) => (
            <section key={s.id} id={s.id}>
              {s.id !== 'begin' && <h2 className="small-head">{s.title}</h2>}
              <Text>{s.text}</Text>
            </section>
          ))}
        </>
      ) : (
        <p className="lead">There is no such page of help.</p>
      )}
    </main>
  )
}

function Text({ children }: { children: string }) {
  return (
    <Markdown
      remarkPlugins={[remarkGfm]}
      components={{
        h3: ({ children }) => <h3>{children}</h3>,
        // Pages of help link to one another; pictures and the other files stand beside the program only.
        a: ({ href, children }) =>
          href?.endsWith('.md') && !href.includes('/') && href !== 'formats.md' ? (
            <Link to={`/help/${href.slice(0, -3)}`}>{children}</Link>
          ) : (
            <span>{children}</span>
          ),
        img: () => null,
        table: ({ children }) => (
          <div className="wide" tabIndex={0} role="group" aria-label="Table">
            <table className="ruled">{children}</table>
          </div>
        ),
        pre: ({ children }) => (
          <pre className="wide" tabIndex={0}>
            {children}
          </pre>
        ),
      }}
    >
      {children}
    </Markdown>
  )
}
