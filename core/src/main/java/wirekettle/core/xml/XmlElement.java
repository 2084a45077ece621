package wirekettle.core.xml;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import wirekettle.core.value.Name;

/** One element of a read document: its name, attributes, children, text, place, and the prefixes in scope. */
public final class XmlElement {
    private static final String[] NONE = {};

    private final Name name;
    private final XmlElement parent;
    private final int line;
    private final int column;
    private final String[] attributes;
    private final Map<String, String> prefixes;
    private List<XmlElement> children = List.of();
    private StringBuilder text;
    private int textBefore;

    XmlElement(Name name, XmlElement parent, int line, int column, String[] attributes, Map<String, String> prefixes) {
        this.name = name;
        this.parent = parent;
        this.line = line;
        this.column = column;
        this.attributes = attributes == null ? NONE : attributes;
        this.prefixes = prefixes;
    }

    /** Returns the prefixes in scope, not to be changed; the same object as the parent's where none was added. */
    public Map<String, String> scope() {
        return prefixes;
    }

    void add(XmlElement child) {
        if (children.isEmpty()) {
            children = new ArrayList<>(4);
        }
        child.textBefore = text == null ? 0 : text.length();
        children.add(child);
    }

    void addText(char[] buffer, int start, int length) {
        if (text == null) {
            text = new StringBuilder(length);
        }
        text.append(buffer, start, length);
    }

    /** Returns the element's expanded name. */
    public Name name() {
        return name;
    }

    /** Returns the local part of the name. */
    public String local() {
        return name.local();
    }

    /** Returns the enclosing element, or null for the root. */
    public XmlElement parent() {
        return parent;
    }

    /** Returns the line of the start tag, from 1. */
    public int line() {
        return line;
    }

    /** Returns the column of the start tag, from 1. */
    public int column() {
        return column;
    }

    /** Returns the child elements in document order. */
    public List<XmlElement> children() {
        return children;
    }

    /** Returns the first child of that name, or null. */
    public XmlElement child(String namespace, String local) {
        for (XmlElement child : children) {
            if (child.name.local().equals(local) && child.name.namespace().equals(namespace)) {
                return child;
            }
        }
        return null;
    }

    /** Returns all children of that name. */
    public List<XmlElement> children(String namespace, String local) {
        List<XmlElement> found = new ArrayList<>();
        for (XmlElement child : children) {
            if (child.name.local().equals(local) && child.name.namespace().equals(namespace)) {
                found.add(child);
            }
        }
        return found;
    }

    /** Returns an attribute without namespace, or null when it is absent. */
    public String attribute(String local) {
        return attribute("", local);
    }

    /** Returns an attribute, or null when it is absent. */
    public String attribute(String namespace, String local) {
        for (int i = 0; i < attributes.length; i += 3) {
            if (attributes[i + 1].equals(local) && attributes[i].equals(namespace)) {
                return attributes[i + 2];
            }
        }
        return null;
    }

    /** Returns the number of attributes. */
    public int attributeCount() {
        return attributes.length / 3;
    }

    /** Returns the name of attribute {@code index}, from 0. */
    public Name attributeName(int index) {
        return new Name(attributes[index * 3], attributes[index * 3 + 1]);
    }

    /** Returns the value of attribute {@code index}, from 0. */
    public String attributeValue(int index) {
        return attributes[index * 3 + 2];
    }

    /** Returns the text directly inside this element, unchanged; empty when there is none. */
    public String text() {
        return text == null ? "" : text.toString();
    }

    /** Returns all text below this element, white space collapsed: documentation with markup becomes a sentence. */
    public String allText() {
        StringBuilder all = new StringBuilder();
        collect(all);
        return all.toString().strip().replaceAll("\\s+", " ");
    }

    private void collect(StringBuilder all) {
        int from = 0;
        for (XmlElement child : children) {
            all.append(text(), from, child.textBefore).append(' ');
            from = child.textBefore;
            child.collect(all);
            all.append(' ');
        }
        all.append(text(), from, text().length());
    }

    /** Returns the namespace a prefix stands for here, or null when it is not declared ("" is the default prefix). */
    public String namespaceOf(String prefix) {
        if (prefix.equals("xml")) {
            return "http://www.w3.org/XML/1998/namespace";
        }
        String found = prefixes.get(prefix);
        return found == null && prefix.isEmpty() ? "" : found;
    }

    /** Returns every prefix in scope with its namespace. */
    public Map<String, String> prefixes() {
        return new HashMap<>(prefixes);
    }

    /** Resolves {@code prefix:local} as XML Schema does (default namespace applies); null for an undeclared prefix. */
    public Name resolve(String qualified) {
        String trimmed = qualified.strip();
        int colon = trimmed.indexOf(':');
        String namespace = namespaceOf(colon < 0 ? "" : trimmed.substring(0, colon));
        return namespace == null ? null : new Name(namespace, trimmed.substring(colon + 1));
    }
}
