/** Where the rules lie for the browser; set by the build. */
declare const __RULES__: string;
/** Where Python for WebAssembly lies for the browser; set by the build. */
declare const __PYTHON__: string;
