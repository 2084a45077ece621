package wirekettle.core.expression;

import com.fasterxml.jackson.annotation.JsonValue;
import java.io.StringReader;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.Callable;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import javax.xml.transform.stream.StreamSource;
import net.sf.saxon.om.NodeInfo;
import net.sf.saxon.s9api.Axis;
import net.sf.saxon.s9api.Location;
import net.sf.saxon.s9api.QName;
import net.sf.saxon.s9api.SaxonApiException;
import net.sf.saxon.s9api.XQueryCompiler;
import net.sf.saxon.s9api.XQueryEvaluator;
import net.sf.saxon.s9api.XQueryExecutable;
import net.sf.saxon.s9api.XdmDestination;
import net.sf.saxon.s9api.XdmEmptySequence;
import net.sf.saxon.s9api.XdmItem;
import net.sf.saxon.s9api.XdmNode;
import net.sf.saxon.s9api.XdmNodeKind;
import net.sf.saxon.s9api.XdmSequenceIterator;
import net.sf.saxon.s9api.XdmValue;
import net.sf.saxon.s9api.Xslt30Transformer;
import net.sf.saxon.s9api.XsltCompiler;
import net.sf.saxon.s9api.XsltExecutable;
import wirekettle.core.value.Name;
import wirekettle.core.value.Node;
import wirekettle.core.value.NodeReader;

/**
 * A whole message made by XSLT 3.0 or XQuery 3.1 from the variables in reach, shut off from files, addresses and the
 * environment. In XSLT a variable is a global parameter of its name, in XQuery it is declared by itself. Safe for
 * several threads.
 */
public final class Script {
    /** How long one evaluation may take, in milliseconds. */
    public static final long LIMIT_MILLIS = 5_000;

    /** What a script is written in. */
    public enum Language {
        /** XSLT 3.0. */
        XSLT,
        /** XQuery 3.1. */
        XQUERY;

        /** Returns the word used in files and the API. */
        @JsonValue
        public String word() {
            return name().toLowerCase(Locale.ROOT);
        }
    }

    private static final QName START = new QName("http://www.w3.org/1999/XSL/Transform", "initial-template");
    private static final Pattern PROLOG = Pattern.compile(
            "\\G\\s*(?:\\(:.*?:\\)\\s*)*(?:xquery\\s+[^;]*;|import\\s+[^;]*;|declare\\s+(?:default|namespace|boundary-space"
                    + "|base-uri|construction|ordering|copy-namespaces|decimal-format)\\b[^;]*;)",
            Pattern.DOTALL);
    private static final Pattern ELSEWHERE =
            Pattern.compile("<xsl:(include|import|result-document|source-document|use-package)\\b");

    private interface Evaluation {
        XdmValue of(Map<QName, XdmValue> variables, XdmNode input) throws SaxonApiException;
    }

    private final Expressions expressions;
    private final Set<String> used;
    private final String input;
    private final Evaluation evaluation;

    private Script(Expressions expressions, Set<String> used, String input, Evaluation evaluation) {
        this.expressions = expressions;
        this.used = used;
        this.input = input;
        this.evaluation = evaluation;
    }

    /**
     * Compiles a script.
     *
     * @param language what it is written in
     * @param input the variable that is the context item, without the dollar sign
     * @param known the variables in reach
     * @throws ExpressionProblem with line and column of what is wrong
     */
    public static Script of(Language language, String text, String input, Set<String> known, Expressions expressions)
            throws ExpressionProblem {
        if (text == null || text.isBlank()) {
            throw new ExpressionProblem("there is no text yet: write what makes the message", 0);
        }
        if (!known.contains(input)) {
            throw new ExpressionProblem(
                    "$" + input + " is not known here; in reach are $" + String.join(", $", known), 0);
        }
        Expressions.refuseOutside(text);
        return language == Language.XSLT
                ? xslt(text, input, known, expressions)
                : xquery(text, input, known, expressions);
    }

    private static Script xslt(String text, String input, Set<String> known, Expressions expressions)
            throws ExpressionProblem {
        Matcher elsewhere = ELSEWHERE.matcher(text);
        if (elsewhere.find()) {
            throw new ExpressionProblem(
                    "xsl:" + elsewhere.group(1) + " is not allowed: a script reads and writes no other file",
                    line(text, elsewhere.start()),
                    0);
        }
        XsltCompiler compiler = expressions.processor().newXsltCompiler();
        List<ExpressionProblem> problems = new ArrayList<>();
        compiler.setErrorReporter(error -> add(problems, error.getMessage(), error.getLocation(), 0));
        XsltExecutable executable =
                compiled(problems, () -> CheckedTree.of(compiler.compile(new StreamSource(new StringReader(text)))));
        Set<String> parameters = new TreeSet<>();
        executable.getGlobalParameters().keySet().forEach(name -> parameters.add(name.getLocalName()));
        for (String name : parameters) {
            if (!known.contains(name)) {
                throw new ExpressionProblem(
                        "the parameter " + name + " is not known here; in reach are " + String.join(", ", known), 0);
            }
        }
        boolean starts = text.contains("initial-template");
        return new Script(expressions, parameters, input, (variables, node) -> {
            Xslt30Transformer transformer = executable.load30();
            List<String> failures = new ArrayList<>();
            transformer.setErrorReporter(error -> failures.add(error.getMessage()));
            transformer.setMessageHandler(message -> {});
            transformer.setResultDocumentHandler(uri -> {
                throw new IllegalStateException("a script writes no file");
            });
            transformer.setStylesheetParameters(variables);
            if (node != null) {
                transformer.setGlobalContextItem(node);
            }
            XdmDestination made = new XdmDestination();
            if (starts || node == null) {
                transformer.callTemplate(START, made);
            } else {
                transformer.applyTemplates(node, made);
            }
            return made.getXdmNode();
        });
    }

    private static Script xquery(String text, String input, Set<String> known, Expressions expressions)
            throws ExpressionProblem {
        Set<String> used = Expressions.variablesOf(text);
        used.retainAll(known);
        int end = 0;
        Matcher prolog = PROLOG.matcher(text);
        while (prolog.find()) {
            end = prolog.end();
        }
        StringBuilder declared = new StringBuilder();
        for (String name : used) {
            boolean own = Pattern.compile("declare\\s+variable\\s+\\$" + Pattern.quote(name) + "(?![\\w.-])")
                    .matcher(text)
                    .find();
            declared.append(own ? "" : "declare variable $" + name + " external; ");
        }
        XQueryCompiler compiler = expressions.processor().newXQueryCompiler();
        List<ExpressionProblem> problems = new ArrayList<>();
        int added = declared.length();
        int addedAt = line(text, end);
        compiler.setErrorReporter(error -> add(
                problems, error.getMessage(), error.getLocation(), lineOf(error.getLocation()) == addedAt ? added : 0));
        String whole = text.substring(0, end) + declared + text.substring(end);
        XQueryExecutable executable = compiled(problems, () -> CheckedTree.of(compiler.compile(whole)));
        return new Script(expressions, used, input, (variables, node) -> {
            XQueryEvaluator evaluator = executable.load();
            evaluator.setErrorReporter(error -> {});
            variables.forEach(evaluator::setExternalVariable);
            if (node != null) {
                evaluator.setContextItem(node);
            }
            return evaluator.evaluate();
        });
    }

    /** Compiles; the first thing the compiler reported says more than what it threw. */
    private static <T> T compiled(List<ExpressionProblem> problems, Callable<T> work) throws ExpressionProblem {
        try {
            return Expressions.compiled(work);
        } catch (ExpressionProblem e) {
            throw problems.isEmpty() ? e : problems.get(0);
        }
    }

    private static int lineOf(Location location) {
        return location == null ? 0 : location.getLineNumber();
    }

    private static void add(List<ExpressionProblem> problems, String message, Location at, int shift) {
        int line = Math.max(0, lineOf(at));
        int column = at == null ? 0 : Math.max(0, at.getColumnNumber() - shift);
        problems.add(new ExpressionProblem(message.replaceAll("\\s+", " ").strip(), line, column));
    }

    private static int line(String text, int at) {
        return 1 + (int) text.substring(0, at).chars().filter(c -> c == '\n').count();
    }

    private static String message(SaxonApiException e) {
        return String.valueOf(e.getMessage()).replaceAll("\\s+", " ").strip();
    }

    /** Returns the element the script makes for one record. */
    public Node result(Scope scope) throws ExpressionProblem {
        try {
            return EvaluationGuard.within(LIMIT_MILLIS, () -> {
                Map<QName, XdmValue> variables = new HashMap<>();
                for (String name : used) {
                    XdmNode node = expressions.seen(scope, name);
                    variables.put(new QName(name), node == null ? XdmEmptySequence.getInstance() : node);
                }
                return element(evaluation.of(variables, expressions.seen(scope, input)));
            });
        } catch (EvaluationGuard.TooMuch e) {
            throw new ExpressionProblem(
                    "took longer than " + LIMIT_MILLIS / 1000 + " seconds or too much memory and was ended", 0);
        } catch (ExpressionProblem e) {
            throw e;
        } catch (SaxonApiException e) {
            throw new ExpressionProblem(message(e), Math.max(0, e.getLineNumber()), 0);
        } catch (Exception e) {
            throw new ExpressionProblem(String.valueOf(e.getMessage()), 0);
        }
    }

    private static Node element(XdmValue value) throws ExpressionProblem {
        Node found = null;
        int elements = 0;
        for (XdmItem item : value) {
            if (item instanceof XdmNode node) {
                XdmNode element = node.getNodeKind() == XdmNodeKind.DOCUMENT ? firstElement(node) : node;
                if (element != null && element.getNodeKind() == XdmNodeKind.ELEMENT) {
                    elements++;
                    found = found == null ? tree(element, 0) : found;
                }
            }
        }
        if (elements != 1) {
            throw new ExpressionProblem(
                    elements == 0
                            ? "it makes no element: the result must be one"
                            : "it makes " + elements + " elements: the result must be one",
                    0);
        }
        return found;
    }

    private static XdmNode firstElement(XdmNode document) {
        XdmSequenceIterator<XdmNode> children = document.axisIterator(Axis.CHILD);
        while (children.hasNext()) {
            XdmNode child = children.next();
            if (child.getNodeKind() == XdmNodeKind.ELEMENT) {
                return child;
            }
        }
        return null;
    }

    private static Node tree(XdmNode element, int depth) throws ExpressionProblem {
        if (depth > 400) {
            throw new ExpressionProblem("what it makes is nested deeper than 400", 0);
        }
        NodeInfo info = element.getUnderlyingNode();
        Node.Builder made = Node.build(new Name(info.getNamespaceUri().toString(), info.getLocalPart()));
        XdmSequenceIterator<XdmNode> attributes = element.axisIterator(Axis.ATTRIBUTE);
        while (attributes.hasNext()) {
            XdmNode attribute = attributes.next();
            QName name = attribute.getNodeName();
            String value = attribute.getStringValue();
            String namespace = name.getNamespaceUri().toString();
            if (!NodeReader.XSI.equals(namespace)) {
                made.attribute(new Name(namespace, name.getLocalName()), value);
            } else if (name.getLocalName().equals("nil") && (value.equals("true") || value.equals("1"))) {
                made.nil();
            }
        }
        XdmSequenceIterator<XdmNode> children = element.axisIterator(Axis.CHILD);
        while (children.hasNext()) {
            XdmNode child = children.next();
            if (child.getNodeKind() == XdmNodeKind.ELEMENT) {
                made.add(tree(child, depth + 1));
            } else if (child.getNodeKind() == XdmNodeKind.TEXT) {
                made.text(child.getStringValue());
            }
        }
        return made.done();
    }
}
