package wirekettle.core.expression;

import java.util.ArrayList;
import java.util.Collections;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Set;
import net.sf.saxon.PreparedStylesheet;
import net.sf.saxon.expr.AxisExpression;
import net.sf.saxon.expr.Component;
import net.sf.saxon.expr.Expression;
import net.sf.saxon.expr.IntegerRangeTest;
import net.sf.saxon.expr.Literal;
import net.sf.saxon.expr.Operand;
import net.sf.saxon.expr.RangeExpression;
import net.sf.saxon.expr.UserFunctionCall;
import net.sf.saxon.expr.VariableReference;
import net.sf.saxon.expr.instruct.Actor;
import net.sf.saxon.expr.instruct.TemplateRule;
import net.sf.saxon.functions.Contains;
import net.sf.saxon.functions.SubstringAfter;
import net.sf.saxon.functions.SubstringBefore;
import net.sf.saxon.functions.hof.UserFunctionReference;
import net.sf.saxon.s9api.XPathExecutable;
import net.sf.saxon.s9api.XQueryExecutable;
import net.sf.saxon.s9api.XsltExecutable;
import net.sf.saxon.trans.Mode;
import net.sf.saxon.trans.XPathException;
import net.sf.saxon.value.Cardinality;

/**
 * Puts a {@link CheckedExpression} wherever a compiled expression may loop: around what is evaluated repeatedly,
 * what gives several items, and the bodies of functions and templates, inline ones among them.
 */
final class CheckedTree {
    /** The longest range of numbers, as in {@code 1 to 1000000}. */
    static final long MOST_NUMBERS = 1_000_000;

    /** The longest text that is looked for in others, in characters. */
    static final long MOST_LOOKED_FOR = 1_000;

    private final Set<Object> seen = Collections.newSetFromMap(new IdentityHashMap<>());

    private CheckedTree() {}

    /** Checks an XPath expression. */
    static XPathExecutable of(XPathExecutable executable) throws ExpressionProblem {
        Expression root = executable.getUnderlyingExpression().getInternalExpression();
        mustNotBeLong(root);
        new CheckedTree().below(root);
        return executable;
    }

    /** Checks a query with its functions. */
    static XQueryExecutable of(XQueryExecutable executable) throws ExpressionProblem {
        new CheckedTree().below(executable.getUnderlyingCompiledQuery().getBody());
        return executable;
    }

    /** Checks a stylesheet with its functions and templates. */
    static XsltExecutable of(XsltExecutable executable) throws ExpressionProblem {
        CheckedTree tree = new CheckedTree();
        PreparedStylesheet stylesheet = executable.getUnderlyingCompiledStylesheet();
        for (Component component :
                stylesheet.getTopLevelPackage().getComponentIndex().values()) {
            tree.actor(component.getActor());
        }
        tree.rules(stylesheet.getRuleManager().getUnnamedMode());
        for (Mode mode : stylesheet.getRuleManager().getAllNamedModes()) {
            tree.rules(mode);
        }
        return executable;
    }

    private void rules(Mode mode) throws ExpressionProblem {
        List<TemplateRule> templates = new ArrayList<>();
        try {
            mode.processRules(rule -> {
                if (rule.getAction() instanceof TemplateRule template) {
                    templates.add(template);
                }
            });
        } catch (XPathException e) {
            throw new ExpressionProblem(String.valueOf(e.getMessage()), 0);
        }
        for (TemplateRule template : templates) {
            Expression body = template.getBody();
            if (body != null && seen.add(template)) {
                below(body);
                template.setBody(new CheckedExpression(body, most(body), Long.MAX_VALUE));
            }
        }
    }

    private void actor(Actor actor) throws ExpressionProblem {
        Expression body = actor == null ? null : actor.getBody();
        if (body == null || !seen.add(actor)) {
            return;
        }
        below(body);
        if (!(body instanceof CheckedExpression)) {
            actor.setBody(new CheckedExpression(body, most(body), Long.MAX_VALUE));
        }
    }

    private void below(Expression expression) throws ExpressionProblem {
        if (!seen.add(expression)) {
            return;
        }
        if (expression instanceof UserFunctionReference reference) {
            actor(reference.getNominalTarget());
        } else if (expression instanceof UserFunctionCall call) {
            actor(call.getFunction());
        }
        // looking for a long text in a long one takes the product of both, in a place that cannot be ended
        boolean looks = expression.isCallOn(Contains.class)
                || expression.isCallOn(SubstringBefore.class)
                || expression.isCallOn(SubstringAfter.class);
        boolean lookedFor = false;
        for (Operand operand : expression.operands()) {
            Expression child = operand.getChildExpression();
            below(child);
            mustNotBeLong(child);
            if (lookedFor) {
                operand.setChildExpression(new CheckedExpression(child, Long.MAX_VALUE, MOST_LOOKED_FOR));
            } else if (mayGoRound(operand, child) && !mustStay(expression, operand, child)) {
                operand.setChildExpression(new CheckedExpression(child, most(child), Long.MAX_VALUE));
            }
            lookedFor = !lookedFor && looks;
        }
    }

    private static boolean mayGoRound(Operand operand, Expression child) {
        return operand.isEvaluatedRepeatedly() || Cardinality.allowsMany(child.getCardinality());
    }

    /** Some places take only expressions of their own kind; others end by themselves. */
    private static boolean mustStay(Expression parent, Operand operand, Expression child) {
        return operand.getOperandRole().isConstrainedClass()
                || operand.getOperandRole().getConstraint() != null
                || parent instanceof IntegerRangeTest
                || child instanceof CheckedExpression
                || child instanceof Literal && !Cardinality.allowsMany(child.getCardinality())
                || child instanceof VariableReference
                || child instanceof AxisExpression;
    }

    private static long most(Expression expression) {
        return expression instanceof RangeExpression ? MOST_NUMBERS : Long.MAX_VALUE;
    }

    private static void mustNotBeLong(Expression expression) throws ExpressionProblem {
        if (expression instanceof Literal literal && literal.getGroundedValue().getLength() > MOST_NUMBERS) {
            throw new ExpressionProblem(
                    "makes a sequence of more than " + MOST_NUMBERS + " numbers: no mapping needs as many", 0);
        }
    }
}
