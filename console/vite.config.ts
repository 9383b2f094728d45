import react from '@vitejs/plugin-react'
import { defineConfig } from 'vitest/config'

export default defineConfig({
  plugins: [react()],
  // Below whatever path the service is reached: the page's base says which.
  base: './',
  build: { chunkSizeWarningLimit: 2500, sourcemap: false },
  server: { proxy: { '/api': process.env.LONGTHREAD_URL ?? 'http://127.0.0.1:8080' } },
  test: { environment: 'happy-dom', setupFiles: ['src/testSetup.ts'], testTimeout: 60_000 },
})
