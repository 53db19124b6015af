import '@testing-library/jest-dom/vitest';
import { afterEach, vi } from 'vitest';

// Files share a process and its document, which saves most of the time: each gets modules and storage of its own.
vi.resetModules();
vi.unstubAllGlobals();
vi.useRealTimers();
localStorage.clear();
sessionStorage.clear();
history.replaceState({}, '', '/');
document.head.innerHTML = document.body.innerHTML = '';
const { cleanup } = await import('@testing-library/svelte');
afterEach(cleanup);
