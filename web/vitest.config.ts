import { mergeConfig } from "vite";
import { defineConfig } from "vitest/config";

import base from "./vite.config.ts";

export default mergeConfig(base, defineConfig({ test: { environment: "happy-dom", include: ["tests/**/*.test.ts"] } }));
