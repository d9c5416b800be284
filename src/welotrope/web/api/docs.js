// Shows the API description served by the application itself.
window.SwaggerUIBundle({ url: "/api/openapi.json", dom_id: "#api", deepLinking: true, validatorUrl: null });
