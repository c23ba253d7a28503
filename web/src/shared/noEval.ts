// Zod would look whether it may make functions from text, which the page's policy forbids and reports.
// Imported first wherever schemas run in a browser.
import { z } from "zod";

z.config({ jitless: true });
