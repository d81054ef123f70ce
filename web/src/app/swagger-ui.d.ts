declare module "swagger-ui-dist/swagger-ui-es-bundle.js" {
  export default function SwaggerUIBundle(options: Record<string, unknown>): unknown;
}
