/** The application and its version, written into files and reports; the same as in package.json. */
export const appVersion = '0.1.0';
export const appName = `Parola ${appVersion}`;
