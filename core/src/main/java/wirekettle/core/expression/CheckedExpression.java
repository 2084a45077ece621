package wirekettle.core.expression;

import net.sf.saxon.Configuration;
import net.sf.saxon.expr.Expression;
import net.sf.saxon.expr.OperandRole;
import net.sf.saxon.expr.UnaryExpression;
import net.sf.saxon.expr.XPathContext;
import net.sf.saxon.expr.elab.BooleanEvaluator;
import net.sf.saxon.expr.elab.Elaborator;
import net.sf.saxon.expr.elab.ItemEvaluator;
import net.sf.saxon.expr.elab.PullEvaluator;
import net.sf.saxon.expr.elab.PushEvaluator;
import net.sf.saxon.expr.elab.SequenceEvaluator;
import net.sf.saxon.expr.elab.UnicodeStringEvaluator;
import net.sf.saxon.expr.parser.RebindingMap;
import net.sf.saxon.om.GroundedValue;
import net.sf.saxon.om.Item;
import net.sf.saxon.om.Sequence;
import net.sf.saxon.om.SequenceIterator;
import net.sf.saxon.str.UnicodeString;
import net.sf.saxon.trans.XPathException;

/** A part of a compiled expression that checks whether its evaluation has to end each time it is evaluated. */
final class CheckedExpression extends UnaryExpression {
    /** How many items a sequence of numbers may have, and how many characters a text to look for: more is an attack. */
    private final long most;

    private final long mostText;

    CheckedExpression(Expression base, long most, long mostText) {
        super(base);
        this.most = most;
        this.mostText = mostText;
        setRetainedStaticContext(base.getRetainedStaticContext());
        setLocation(base.getLocation());
    }

    @Override
    protected OperandRole getOperandRole() {
        return OperandRole.SAME_FOCUS_ACTION;
    }

    @Override
    public int getImplementationMethod() {
        return getBaseExpression().getImplementationMethod();
    }

    @Override
    protected int computeCardinality() {
        return getBaseExpression().getCardinality();
    }

    @Override
    protected int computeSpecialProperties() {
        return getBaseExpression().getSpecialProperties();
    }

    @Override
    public Expression copy(RebindingMap rebindings) {
        return new CheckedExpression(getBaseExpression().copy(rebindings), most, mostText);
    }

    @Override
    public String getExpressionName() {
        return "checked";
    }

    @Override
    protected String displayOperator(Configuration configuration) {
        return "checked";
    }

    /** Functions of ours ask for their arguments in this way. */
    @Override
    public SequenceIterator iterate(XPathContext context) throws XPathException {
        return getElaborator().elaborateForPull().iterate(context);
    }

    @Override
    public Item evaluateItem(XPathContext context) throws XPathException {
        return getElaborator().elaborateForItem().eval(context);
    }

    @Override
    public Elaborator getElaborator() {
        return new Checking();
    }

    private Sequence limited(Sequence value) {
        if (value instanceof GroundedValue grounded && grounded.getLength() > most) {
            throw new TooMany(most);
        }
        return value;
    }

    private UnicodeString limited(UnicodeString text) {
        if (text != null && text.length() > mostText) {
            throw new TooMany("looks for a text of more than " + mostText + " characters");
        }
        return text;
    }

    /** Something that is longer than anything a mapping needs. */
    static final class TooMany extends RuntimeException {
        TooMany(long most) {
            this("makes a sequence of more than " + most + " numbers");
        }

        TooMany(String message) {
            super(message, null, false, false);
        }
    }

    private final class Checking extends Elaborator {
        private Elaborator base() {
            return getBaseExpression().makeElaborator();
        }

        @Override
        public SequenceEvaluator eagerly() {
            SequenceEvaluator base = base().eagerly();
            return context -> {
                EvaluationGuard.check();
                return limited(base.evaluate(context));
            };
        }

        @Override
        public SequenceEvaluator lazily(boolean repeatable, boolean lazyEvaluationRequired) {
            SequenceEvaluator base = base().lazily(repeatable, lazyEvaluationRequired);
            return context -> {
                EvaluationGuard.check();
                return limited(base.evaluate(context));
            };
        }

        @Override
        public PullEvaluator elaborateForPull() {
            PullEvaluator base = base().elaborateForPull();
            return context -> {
                EvaluationGuard.check();
                return new Iterating(base.iterate(context));
            };
        }

        @Override
        public PushEvaluator elaborateForPush() {
            PushEvaluator base = base().elaborateForPush();
            return (out, context) -> {
                EvaluationGuard.check();
                return base.processLeavingTail(out, context);
            };
        }

        @Override
        public ItemEvaluator elaborateForItem() {
            ItemEvaluator base = base().elaborateForItem();
            return context -> {
                EvaluationGuard.check();
                Item item = base.eval(context);
                if (item != null && mostText < Long.MAX_VALUE) {
                    limited(item.getUnicodeStringValue());
                }
                return item;
            };
        }

        @Override
        public BooleanEvaluator elaborateForBoolean() {
            BooleanEvaluator base = base().elaborateForBoolean();
            return context -> {
                EvaluationGuard.check();
                return base.eval(context);
            };
        }

        @Override
        public UnicodeStringEvaluator elaborateForUnicodeString(boolean zeroLengthWhenAbsent) {
            UnicodeStringEvaluator base = base().elaborateForUnicodeString(zeroLengthWhenAbsent);
            return context -> {
                EvaluationGuard.check();
                return limited(base.eval(context));
            };
        }
    }

    private final class Iterating implements SequenceIterator {
        private final SequenceIterator base;
        private long count;

        Iterating(SequenceIterator base) {
            this.base = base;
        }

        @Override
        public Item next() {
            if (++count > most) {
                throw new TooMany(most);
            }
            EvaluationGuard.check();
            return base.next();
        }

        @Override
        public void close() {
            base.close();
        }
    }
}
