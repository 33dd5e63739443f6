import "swagger-ui-dist/swagger-ui.css";
import SwaggerUI from "swagger-ui-dist/swagger-ui-es-bundle.js";

SwaggerUI({ url: "/api/openapi.json", domNode: document.getElementById("docs") });
