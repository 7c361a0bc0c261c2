import { z } from 'zod';

// Without this the library would try to compile code, which the page’s own policy forbids. It has to come before any rule.
z.config({ jitless: true });
