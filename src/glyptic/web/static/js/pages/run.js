/** A run's page: what the server says of it every second, and what it refuses. */

import { sayFailures } from "./failures.js";

sayFailures();
