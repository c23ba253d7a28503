declare module "@micropython/micropython-webassembly-pyscript" {
  interface MicroPython {
    readonly FS: { writeFile(path: string, text: string): void };
    readonly globals: { get(name: string): unknown };
    registerJsModule(name: string, module: object): void;
    runPython(code: string): unknown;
  }
  export function loadMicroPython(options: {
    heapsize?: number;
    linebuffer?: boolean;
    stdout?: (line: string) => void;
    stderr?: (line: string) => void;
  }): Promise<MicroPython>;
}
