declare module "swagger-ui-dist/swagger-ui-es-bundle.js" {
  export default function SwaggerUI(options: { url: string; domNode: HTMLElement | null }): void;
}
