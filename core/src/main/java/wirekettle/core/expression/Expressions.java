package wirekettle.core.expression;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Queue;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.Callable;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import net.sf.saxon.Configuration;
import net.sf.saxon.lib.Feature;
import net.sf.saxon.s9api.ItemType;
import net.sf.saxon.s9api.OccurrenceIndicator;
import net.sf.saxon.s9api.Processor;
import net.sf.saxon.s9api.QName;
import net.sf.saxon.s9api.SaxonApiException;
import net.sf.saxon.s9api.UnprefixedElementMatchingPolicy;
import net.sf.saxon.s9api.XPathCompiler;
import net.sf.saxon.s9api.XPathExecutable;
import net.sf.saxon.s9api.XPathSelector;
import net.sf.saxon.s9api.XdmEmptySequence;
import net.sf.saxon.s9api.XdmItem;
import net.sf.saxon.s9api.XdmNode;
import net.sf.saxon.s9api.XdmSequenceIterator;
import net.sf.saxon.s9api.XdmValue;
import net.sf.saxon.trans.XPathException;
import net.sf.saxon.type.Type;
import wirekettle.core.value.Node;

/**
 * XPath 3.1 over value trees, shut off from files, addresses and the environment. Unprefixed names match in any
 * namespace. Safe for several threads.
 */
public final class Expressions {
    /** How long one evaluation may take, in milliseconds of the processor. */
    public static final long LIMIT_MILLIS = 2_000;

    private static final Pattern VARIABLE = Pattern.compile("\\$([\\p{L}_][\\p{L}\\p{N}_.-]*)");
    private static final Pattern LITERAL =
            Pattern.compile("\"(?:[^\"]++|\"\")*+\"|'(?:[^']++|'')*+'|\\(:.*?:\\)", Pattern.DOTALL);
    private static final Pattern OUTSIDE = Pattern.compile("(?<![\\w$@/.-])(?:fn:|Q\\{[^}]*})?"
            + "(doc|doc-available|document|collection|uri-collection|unparsed-text|unparsed-text-lines"
            + "|unparsed-text-available|json-doc|environment-variable|available-environment-variables|transform"
            + "|load-xquery-module|function-lookup|parse-xml|parse-xml-fragment)\\s*[(#]");

    private final Processor processor;

    /** Makes an engine of its own. */
    public Expressions() {
        Configuration configuration = new CheckedText.Settings();
        processor = new Processor(configuration);
        // what is constant is not worked out while it is compiled: there nothing can be ended
        configuration.setConfigurationProperty(Feature.OPTIMIZATION_LEVEL, "-k");
        configuration.setConfigurationProperty(Feature.ALLOWED_PROTOCOLS, "");
        configuration.setConfigurationProperty(Feature.ALLOW_EXTERNAL_FUNCTIONS, false);
        configuration.setConfigurationProperty(Feature.ENVIRONMENT_VARIABLE_RESOLVER, new NoEnvironment());
        WireFunctions.register(processor);
    }

    private static final class NoEnvironment implements net.sf.saxon.lib.EnvironmentVariableResolver {
        @Override
        public Set<String> getAvailableEnvironmentVariables() {
            return Set.of();
        }

        @Override
        public String getEnvironmentVariable(String name) {
            return null;
        }
    }

    /** Returns the names of the variables a text uses. */
    public static Set<String> variablesOf(String expression) {
        Set<String> names = new TreeSet<>();
        Matcher matcher = VARIABLE.matcher(LITERAL.matcher(expression).replaceAll("''"));
        while (matcher.find()) {
            names.add(matcher.group(1));
        }
        return names;
    }

    /**
     * Compiles an expression.
     *
     * @param known the variables in reach; any other is a problem, null accepts all
     * @throws ExpressionProblem with the column where it is wrong
     */
    public Compiled compile(String expression, Set<String> known) throws ExpressionProblem {
        String bare = refuseOutside(expression);
        Set<String> used = variablesOf(expression);
        XPathCompiler compiler = processor.newXPathCompiler();
        compiler.setUnprefixedElementMatchingPolicy(UnprefixedElementMatchingPolicy.ANY_NAMESPACE);
        compiler.setCaching(false);
        compiler.declareNamespace("wire", WireFunctions.NAMESPACE);
        Set<String> declared = known == null ? used : known;
        for (String name : used) {
            if (declared.contains(name)) {
                // one node or none: said so that steps below it need no sorting
                compiler.declareVariable(new QName(name), ItemType.ANY_NODE, OccurrenceIndicator.ZERO_OR_ONE);
                continue;
            }
            String bound = "(?s).*\\b(for|let|some|every|function)\\b.*\\$" + Pattern.quote(name) + "(?![\\w.-]).*";
            if (!bare.matches(bound)) {
                throw new ExpressionProblem(
                        "$" + name + " is not known here; in reach are $" + String.join(", $", declared),
                        expression.indexOf("$" + name) + 1);
            }
        }
        XPathExecutable executable;
        try {
            // as long as it was, so that columns stay where they are
            String text = expression.replace("@xsi:type", "@type    ");
            executable = compiled(() -> CheckedTree.of(compiler.compile(text)));
        } catch (ExpressionProblem e) {
            throw EngineWords.located(e, expression);
        }
        List<String> needed = new ArrayList<>(used);
        needed.retainAll(declared);
        return new Compiled(executable, needed, PlainCondition.of(expression));
    }

    /** Compiles within the time an evaluation has: what is constant is worked out already here. */
    static <T> T compiled(Callable<T> work) throws ExpressionProblem {
        try {
            return EvaluationGuard.within(LIMIT_MILLIS, work);
        } catch (EvaluationGuard.TooMuch e) {
            throw new ExpressionProblem(
                    "took longer than " + LIMIT_MILLIS / 1000 + " seconds or too much memory to be read and was ended",
                    0);
        } catch (ExpressionProblem e) {
            throw e;
        } catch (SaxonApiException e) {
            throw problem(e);
        } catch (Exception e) {
            // some texts the engine does not refuse but stumbles over
            throw new ExpressionProblem("cannot be read: " + e.getMessage(), 0);
        }
    }

    /** Refuses functions that reach outside; returns the text without its literals and comments. */
    static String refuseOutside(String text) throws ExpressionProblem {
        String bare = LITERAL.matcher(text).replaceAll("''");
        // in a stylesheet expressions stand inside quotes
        Matcher outside = OUTSIDE.matcher(text.contains("http://www.w3.org/1999/XSL/Transform") ? text : bare);
        if (outside.find()) {
            throw new ExpressionProblem(
                    outside.group(1)
                            + "() is not allowed: expressions cannot reach files, addresses or the environment",
                    0);
        }
        return bare;
    }

    Processor processor() {
        return processor;
    }

    /** Returns a variable's node as the engine sees it, null when there is none. */
    XdmNode seen(Scope scope, String variable) {
        Node node = scope.get(variable);
        return node == null ? null : new XdmNode(view(scope, node));
    }

    private static ExpressionProblem problem(SaxonApiException e) {
        int column = 0;
        if (e.getCause() instanceof XPathException cause && cause.getLocator() != null) {
            column = Math.max(0, cause.getLocator().getColumnNumber());
        }
        return new ExpressionProblem(EngineWords.plain(String.valueOf(e.getMessage())), column);
    }

    private interface Evaluation<T> {
        T of(XPathSelector selector) throws SaxonApiException;
    }

    /** An expression ready to be evaluated many times. Safe for several threads. */
    public final class Compiled {
        private final XPathExecutable executable;
        private final Map<String, QName> needed = new LinkedHashMap<>();
        private final Queue<XPathSelector> ready = new ConcurrentLinkedQueue<>();

        private final PlainCondition plain;

        private Compiled(XPathExecutable executable, List<String> needed, PlainCondition plain) {
            this.executable = executable;
            this.plain = plain;
            needed.forEach(name -> this.needed.put(name, new QName(name)));
        }

        /** Returns the value as text, several items joined by a space, the empty text for nothing. */
        public String text(Scope scope) throws ExpressionProblem {
            return guarded(scope, selector -> {
                XdmSequenceIterator<XdmItem> items = selector.iterator();
                if (!items.hasNext()) {
                    return "";
                }
                String first = items.next().getStringValue();
                if (!items.hasNext()) {
                    return first;
                }
                StringBuilder out = new StringBuilder(first);
                while (items.hasNext()) {
                    EvaluationGuard.check();
                    String next = items.next().getStringValue();
                    out.append(out.length() == 0 ? "" : " ").append(next);
                }
                return out.toString();
            });
        }

        /** Returns the effective boolean value (XPath 3.1, 2.4.3). */
        public boolean test(Scope scope) throws ExpressionProblem {
            Boolean decided = plain == null ? null : plain.test(scope);
            return decided != null ? decided : guarded(scope, XPathSelector::effectiveBooleanValue);
        }

        /** Returns the first node the expression leads to, null when there is none. */
        public Node node(Scope scope) throws ExpressionProblem {
            return guarded(scope, selector -> {
                for (XdmItem item : selector.evaluate()) {
                    boolean element =
                            item.getUnderlyingValue() instanceof ViewedNode seen && seen.getNodeKind() == Type.ELEMENT;
                    if (element) {
                        return ((ViewedNode) item.getUnderlyingValue()).node();
                    }
                }
                return null;
            });
        }

        private <T> T guarded(Scope scope, Evaluation<T> work) throws ExpressionProblem {
            try {
                return EvaluationGuard.within(LIMIT_MILLIS, () -> {
                    XPathSelector selector = ready.poll();
                    selector = selector == null ? executable.load() : selector;
                    bind(selector, scope);
                    Scope before = WireFunctions.within(scope);
                    T result;
                    try {
                        result = work.of(selector);
                    } finally {
                        WireFunctions.within(before);
                    }
                    // only one that ended well is used again: it is dear to make
                    ready.offer(selector);
                    return result;
                });
            } catch (EvaluationGuard.TooMuch e) {
                throw new ExpressionProblem(
                        "took longer than " + LIMIT_MILLIS / 1000 + " seconds or too much memory and was ended", 0);
            } catch (SaxonApiException e) {
                throw problem(e);
            } catch (Exception e) {
                throw new ExpressionProblem(EngineWords.plain(String.valueOf(e.getMessage())), 0);
            }
        }

        private void bind(XPathSelector selector, Scope scope) throws SaxonApiException {
            for (Map.Entry<String, QName> variable : needed.entrySet()) {
                Node node = scope.get(variable.getKey());
                XdmValue value = XdmEmptySequence.getInstance();
                if (node != null) {
                    boolean inner = scope.isInner(variable.getKey());
                    value = new XdmNode(inner ? view(scope, node) : root(scope, node));
                }
                selector.setVariable(variable.getValue(), value);
            }
        }
    }

    /** A node inside another variable's tree is seen within it, so that its parents stay in reach. */
    private ViewedNode view(Scope scope, Node node) {
        ViewedNode known = scope.views().get(node);
        if (known != null) {
            return known;
        }
        Places.Place place = scope.places() == null ? null : scope.places().of(node);
        if (place != null) {
            ViewedNode view = view(scope, place.parent()).element(place.index());
            scope.views().put(node, view);
            return view;
        }
        if (scope.places() != null && scope.variables().containsValue(node)) {
            return root(scope, node);
        }
        Node top = node;
        for (Node other : scope.variables().values()) {
            if (other != top && holds(other, top)) {
                top = other;
            }
        }
        ViewedNode root = root(scope, top);
        return top == node ? root : found(root, node, scope.views());
    }

    /** Returns the view of a tree that stands on its own. */
    private ViewedNode root(Scope scope, Node top) {
        return scope.views()
                .computeIfAbsent(top, tree -> ViewedNode.root(tree, processor.getUnderlyingConfiguration()));
    }

    /** Looks for the view of a node below another; what is passed on the way is remembered. */
    private static ViewedNode found(ViewedNode at, Node wanted, Map<Node, ViewedNode> views) {
        for (ViewedNode child : at.below()) {
            if (child.getNodeKind() != Type.ELEMENT) {
                continue;
            }
            views.put(child.node(), child);
            if (child.node() == wanted) {
                return child;
            }
            ViewedNode below = found(child, wanted, views);
            if (below != null) {
                return below;
            }
        }
        return null;
    }

    private static boolean holds(Node tree, Node wanted) {
        for (Node child : tree.children()) {
            if (child == wanted || holds(child, wanted)) {
                return true;
            }
        }
        return false;
    }
}
