export const CORE_VERSION = "0.1.0";
