import { useRef, useState } from 'react'
import Button from '@mui/material/Button'
import Menu from '@mui/material/Menu'
import MenuItem from '@mui/material/MenuItem'

/**
 * A button with a menu of things to do. What is chosen happens when the menu is gone: a menu that is still closing takes the
 * focus back, and the first letters typed into what was opened would be lost. Only a menu that is left gives the focus to its button.
 */
export function ChoiceMenu({
  word,
  label,
  items,
}: {
  word: string
  label?: string
  items: [word: string, act: () => void, offered?: boolean][]
}) {
  const [at, setAt] = useState<HTMLElement | null>(null)
  const chosen = useRef<(() => void) | null>(null)
  const gone = () => {
    const act = chosen.current
    chosen.current = null
    act?.()
  }
  return (
    <>
      <Button variant="text" aria-haspopup="menu" aria-expanded={at !== null} aria-label={label} onClick={(e) => setAt(e.currentTarget)}>
        {word}
      </Button>
      <Menu
        open={at !== null}
        anchorEl={at}
        disableRestoreFocus
        transitionDuration={80}
        slotProps={{ transition: { onExited: gone } }}
        onClose={() => {
          at?.focus()
          setAt(null)
        }}
      >
        {items
          .filter(([, , offered = true]) => offered)
          .map(([item, act]) => (
            <MenuItem
              key={item}
              onClick={() => {
                if (at) {
                  chosen.current = act
                  setAt(null)
                }
              }}
            >
              {item}
            </MenuItem>
          ))}
      </Menu>
    </>
  )
}
