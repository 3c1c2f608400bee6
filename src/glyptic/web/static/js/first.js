/** Begins to show the plate while the rest of the bench is still on its way. */

import { session } from "./session.js";

session.open();
