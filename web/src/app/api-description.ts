import "swagger-ui-dist/swagger-ui.css";
import SwaggerUIBundle from "swagger-ui-dist/swagger-ui-es-bundle.js";

/** The description of the API, for whoever is signed in; everything of it ships with the application. */
SwaggerUIBundle({
  dom_id: "#api",
  url: "/api/v1/openapi.json",
  supportedSubmitMethods: ["get"],
  validatorUrl: null,
});
