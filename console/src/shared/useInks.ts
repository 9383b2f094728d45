import { createContext, useContext } from 'react'
import { type Inks, inks, type Mode } from '../theme'

export const ModeContext = createContext<Mode>('light')

/** The colours with a meaning, in the mode the console is shown in. */
export function useInks(): Inks {
  return inks[useContext(ModeContext)]
}
