package wirekettle.core.fill;

import java.time.LocalDate;
import java.util.Set;
import wirekettle.core.expression.ExpressionProblem;
import wirekettle.core.expression.Scope;
import wirekettle.core.expression.WirePath;
import wirekettle.core.soap.attachments.FileMark;
import wirekettle.core.soap.attachments.Folders;
import wirekettle.core.soap.security.Masking;
import wirekettle.core.value.CodeTable;
import wirekettle.core.value.Conversion;
import wirekettle.core.value.ConversionException;
import wirekettle.core.value.Node;

/** A fill that gives a value, ready for many records: source, format, look-up, what stands for nothing. */
public final class CompiledFill {
    private final ValueSource source;
    private final Conversion conversion;
    private final CodeTable.Index table;
    private final String tableName;
    private final WirePath on;
    private final String otherwise;
    private final Fill.WhenEmpty.Use whenEmpty;
    private final boolean secret;
    private final KeptFile file;

    private CompiledFill(
            ValueSource source, Conversion conversion, CodeTable.Index table, WirePath on, Fill fill, KeptFile file) {
        this.file = file;
        this.source = source;
        this.conversion = conversion;
        this.table = table;
        this.secret = fill.secret();
        this.tableName = fill.lookUp() == null ? null : fill.lookUp().table();
        this.on = on;
        this.whenEmpty = fill.whenEmpty() == null ? null : fill.whenEmpty().use();
        this.otherwise =
                whenEmpty == Fill.WhenEmpty.Use.DEFAULT ? fill.whenEmpty().value() : null;
    }

    /** Compiles a fill; what cannot work is a problem that says what to change. */
    public static CompiledFill of(Fill fill, MappingContext context, Set<String> known) throws ExpressionProblem {
        Conversion conversion = conversion(fill);
        CodeTable.Index table = null;
        WirePath on = null;
        if (fill.lookUp() != null) {
            CodeTable found = context.tables().get(String.valueOf(fill.lookUp().table()));
            if (found == null) {
                throw new ExpressionProblem(
                        "the code table “" + fill.lookUp().table() + "” is not there: pick another", 0);
            }
            try {
                table = found.index();
                on = fill.lookUp().on() == null
                        ? null
                        : ValueSource.path(fill.lookUp().on(), known);
            } catch (IllegalArgumentException e) {
                throw new ExpressionProblem("the code table “" + found.name() + "”: " + e.getMessage(), 0);
            }
        }
        if (fill.by() instanceof FilledBy.Number number && !context.series().containsKey(number.series())) {
            throw new ExpressionProblem("the series “" + number.series() + "” is not there: pick another", 0);
        }
        KeptFile file = fill.file() == null ? null : KeptFile.of(fill, context, known);
        return new CompiledFill(ValueSource.of(fill, context.expressions(), known), conversion, table, on, fill, file);
    }

    private static Conversion conversion(Fill fill) throws ExpressionProblem {
        try {
            return fill.format() == null ? null : fill.format().compile();
        } catch (IllegalArgumentException e) {
            throw new ExpressionProblem("the format is not usable: " + e.getMessage(), 0);
        }
    }

    /** Tells what the fill says of empty values: default, leaveOut, nil, send, reject, or nothing. */
    public Fill.WhenEmpty.Use whenEmpty() {
        return whenEmpty;
    }

    /** Returns a value as it may be shown: a secret is not. */
    public String shown(String value) {
        return secret ? Masking.MASK : value;
    }

    /** Returns the value for one record, null or empty when there is none. */
    public String value(Scope scope) throws FillFailure {
        return finished(raw(scope), scope);
    }

    /** Tells whether the value names a file of a folder whose content is sent. */
    public boolean sendsFile() {
        return file != null;
    }

    /** Returns what stands in a message for the file a value names. */
    public FileMark mark(String value, Scope scope) throws FillFailure {
        try {
            return scope.files().mark(file.folder(), value);
        } catch (Folders.NoSuchFile e) {
            throw new FillFailure("file", value, e.getMessage());
        }
    }

    /** Returns the value of a record's column; where its content is written to a folder that is the file's name. */
    public String column(Scope scope) throws FillFailure {
        if (file == null) {
            return value(scope);
        }
        Node node = source.node(scope);
        String name = node != null ? file.written(node, scope) : file.written(value(scope), scope);
        return name == null ? otherwise : name;
    }

    /** Returns the value of a record's column that comes from a node already found, null for none. */
    public String columnOf(Node node, Scope scope) throws FillFailure {
        if (file == null) {
            return finished(node == null || node.nil() ? null : node.text(), scope);
        }
        String name = file.written(node, scope);
        return name == null ? otherwise : name;
    }

    private String raw(Scope scope) throws FillFailure {
        try {
            return source.raw(scope);
        } catch (ExpressionProblem e) {
            throw new FillFailure("expression", "", e.getMessage());
        }
    }

    /** Returns what becomes of a value found: read by its format, looked up, the default in the place of nothing. */
    String finished(String raw, Scope scope) throws FillFailure {
        String value = raw;
        if (value != null && !value.isEmpty()) {
            try {
                value = conversion == null ? value : conversion.convert(value);
            } catch (ConversionException e) {
                throw new FillFailure(
                        "conversion",
                        e.value(),
                        e.getMessage().substring(e.value().length() + 3));
            }
            if (table != null && !value.isEmpty()) {
                String found = table.find(value, day(scope));
                if (found == null) {
                    String why = table.knows(value) ? " in force that day" : "";
                    throw new FillFailure("lookup", value, "has no entry" + why + " in the code table " + tableName);
                }
                value = found;
            }
        }
        return otherwise != null && (value == null || value.isEmpty()) ? otherwise : value;
    }

    private LocalDate day(Scope scope) throws FillFailure {
        Node node = on == null ? started(scope) : on.first(scope);
        String text = node == null ? "" : node.text();
        try {
            return text.length() < 10 ? null : LocalDate.parse(text.substring(0, 10));
        } catch (java.time.DateTimeException e) {
            throw new FillFailure("lookup", text, "is no day the code table " + tableName + " could be asked for");
        }
    }

    private static Node started(Scope scope) {
        Node run = scope.get("run");
        return run == null ? null : run.child("started");
    }
}
