import { fileURLToPath } from 'node:url';
import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vitest/config';

const server = process.env.POSTTIDE_ADDRESS ?? 'http://127.0.0.1:7180';

export default defineConfig({
  plugins: [react(), tailwindcss()],
  resolve: { alias: { '@': fileURLToPath(new URL('./src', import.meta.url)) } },
  build: { outDir: 'dist', chunkSizeWarningLimit: 900 },
  server: {
    proxy: { '/api': server, '/openapi': server, '/live': { target: server, ws: true } },
  },
  test: { environment: 'jsdom', setupFiles: './src/test-setup.ts', include: ['src/**/*.test.{ts,tsx}'] },
});
