// Recorded before the page's tests are run; types are checked without it.
declare module "*/answers.json" {
  const answers: unknown;
  export default answers;
}
