import { z } from 'zod';

// What zod would compile, the page's rules on scripts forbid, and the browser complains when it tries: said before the first schema is made. It is quick enough without.
z.config({ jitless: true });

export { z };
