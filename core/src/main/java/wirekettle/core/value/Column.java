package wirekettle.core.value;

import com.fasterxml.jackson.annotation.JsonInclude;

/**
 * One field of a layout.
 *
 * @param name the XPath-safe name, unique in its layout
 * @param label the original name
 * @param type what its values are meant to be
 * @param format how they are written, or null for the XML Schema form
 * @param required whether an empty value is a problem
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record Column(String name, String label, ScalarType type, ValueFormat format, boolean required) {}
