import { configure } from '@testing-library/react'
import '@testing-library/jest-dom/vitest'
import { cleanup } from '@testing-library/react'
import { afterEach } from 'vitest'

afterEach(cleanup)

// Machines that do other work at the same time are slow, not wrong.
configure({ asyncUtilTimeout: 15_000 })
