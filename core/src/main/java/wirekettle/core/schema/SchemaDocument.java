package wirekettle.core.schema;

import wirekettle.core.xml.XmlElement;

/**
 * One schema as it takes part: a file, or a schema element inside a service description.
 *
 * @param root the {@code xs:schema} element
 * @param document the document it stands in
 * @param targetNamespace the namespace its components go to; for a chameleon include that of the including schema
 */
public record SchemaDocument(XmlElement root, String document, String targetNamespace) {}
