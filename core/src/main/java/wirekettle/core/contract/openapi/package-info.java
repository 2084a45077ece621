/** Contracts that are described for HTTP and JSON: OpenAPI 3, read into the same model as a WSDL. */
package wirekettle.core.contract.openapi;
