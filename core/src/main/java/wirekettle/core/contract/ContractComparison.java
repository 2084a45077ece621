package wirekettle.core.contract;

import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import wirekettle.core.schema.ElementDecl;
import wirekettle.core.schema.SheetField;
import wirekettle.core.schema.SheetPath;
import wirekettle.core.value.Name;

/** What differs between two revisions of a contract: operations, ports, and every field of every message. */
public final class ContractComparison {
    private static final int MOST_CHANGES = 2_000;
    private static final int MOST_FIELDS = 400_000;

    /** What happened to something. */
    public enum Kind {
        /** It is new. */
        ADDED,
        /** It is gone. */
        REMOVED,
        /** It is another than before. */
        CHANGED
    }

    /**
     * One difference.
     *
     * @param kind what happened
     * @param port the port; several, separated by commas, where they changed alike
     * @param operation the operation's key, empty for a change of the port
     * @param message request, reply, fault:NAME; empty for a change of the operation itself
     * @param field the field's path, empty for a change above fields
     * @param what what differs: field, type, occurrence, facets and so on
     * @param before how it was, empty when added
     * @param after how it is, empty when removed
     */
    public record Change(
            Kind kind,
            String port,
            String operation,
            String message,
            String field,
            String what,
            String before,
            String after) {
        private Change at(String ports) {
            return new Change(kind, ports, operation, message, field, what, before, after);
        }
    }

    private final Contract before;
    private final Contract after;
    private final Map<Change, Set<String>> changes = new LinkedHashMap<>();
    private final Map<String, Integer> toldOnce = new LinkedHashMap<>();
    private int fields;
    private String port = "";
    private String operation = "";
    private String message = "";
    private Set<String> compared = new HashSet<>();

    private ContractComparison(Contract before, Contract after) {
        this.before = before;
        this.after = after;
    }

    /** Returns everything that differs, in the order of the newer contract, what is gone last; at most 2,000. */
    public static List<Change> of(Contract before, Contract after) {
        ContractComparison comparison = new ContractComparison(before, after);
        comparison.ports();
        List<Change> all = new ArrayList<>();
        comparison.changes.forEach((change, ports) -> all.add(change.at(String.join(", ", ports))));
        return all;
    }

    private void ports() {
        Map<String, Port> old = byName(before);
        Map<String, Port> now = byName(after);
        now.forEach((name, its) -> {
            port = name;
            Port was = old.get(name);
            if (was == null) {
                add(Kind.ADDED, "", "port", "", its.protocol() + " " + its.address());
            } else {
                compare(was, its);
            }
        });
        old.forEach((name, was) -> {
            port = name;
            if (!now.containsKey(name)) {
                add(Kind.REMOVED, "", "port", was.protocol() + " " + was.address(), "");
            }
        });
    }

    private static Map<String, Port> byName(Contract contract) {
        Map<String, Port> all = new LinkedHashMap<>();
        contract.services().forEach(s -> s.ports().forEach(p -> all.putIfAbsent(p.name(), p)));
        return all;
    }

    private void compare(Port was, Port is) {
        differ("", "protocol", was.protocol(), is.protocol());
        differ("", "address", was.address(), is.address());
        differ(
                "",
                "advice",
                String.join("; ", was.advice().stream().map(Advice::sentence).toList()),
                String.join("; ", is.advice().stream().map(Advice::sentence).toList()));
        Map<String, Operation> old = new LinkedHashMap<>();
        was.operations().forEach(o -> old.put(o.key(), o));
        for (Operation now : is.operations()) {
            operation = now.key();
            Operation then = old.remove(now.key());
            if (then == null) {
                add(Kind.ADDED, "", "operation", "", now.kind().label());
            } else {
                compare(then, now);
            }
        }
        old.values().forEach(gone -> {
            operation = gone.key();
            add(Kind.REMOVED, "", "operation", gone.kind().label(), "");
        });
        operation = "";
    }

    private void compare(Operation was, Operation is) {
        differ("", "kind", was.kind().label(), is.kind().label());
        differ("", "style", was.style() + "/" + was.use(), is.style() + "/" + is.use());
        differ("", "soapAction", was.action(), is.action());
        compare("request", was.input(), is.input());
        compare("reply", was.output(), is.output());
        Map<String, Message> old = new LinkedHashMap<>();
        was.faults().forEach(f -> old.put(f.name(), f.message()));
        for (Operation.Fault fault : is.faults()) {
            Message then = old.remove(fault.name());
            compare("fault:" + fault.name(), then, fault.message());
        }
        old.forEach((name, gone) -> compare("fault:" + name, gone, null));
        message = "";
    }

    private void compare(String which, Message was, Message is) {
        message = which;
        compared = new HashSet<>();
        if (was == null || is == null) {
            if (was != is) {
                add(
                        was == null ? Kind.ADDED : Kind.REMOVED,
                        "",
                        "message",
                        was == null ? "" : was.name(),
                        is == null ? "" : is.name());
            }
            return;
        }
        Map<Name, ElementDecl> old = new LinkedHashMap<>();
        was.elements().forEach(e -> old.put(e.name(), e));
        List<ElementDecl> added = new ArrayList<>();
        for (ElementDecl now : is.elements()) {
            ElementDecl then = old.remove(now.name());
            if (then == null) {
                added.add(now);
            } else {
                compare(before.sheet(then), after.sheet(now), 0);
            }
        }
        for (ElementDecl now : added) {
            // an element whose namespace alone is new is the same element of a new version
            ElementDecl then = old.values().stream()
                    .filter(e -> e.name().local().equals(now.name().local()))
                    .findFirst()
                    .orElse(null);
            if (then == null) {
                add(Kind.ADDED, after.sheet(now).path(), "field", "", now.name().local());
            } else {
                old.remove(then.name());
                compare(before.sheet(then), after.sheet(now), 0);
            }
        }
        old.values()
                .forEach(gone -> add(
                        Kind.REMOVED,
                        before.sheet(gone).path(),
                        "field",
                        gone.name().local(),
                        ""));
    }

    private void compare(SheetField was, SheetField is, int depth) {
        if (changes.size() >= MOST_CHANGES || ++fields > MOST_FIELDS || depth > 60) {
            return;
        }
        String path = is.path();
        differ(path, "namespace", was.name().namespace(), is.name().namespace());
        differ(path, "type", type(was), type(is));
        differ(path, "occurrence", occurrence(was), occurrence(is));
        differ(path, "facets", facets(was), facets(is));
        differ(path, "nillable", was.nillable() ? "yes" : "no", is.nillable() ? "yes" : "no");
        differ(path, "fixed", text(was.fixed()), text(is.fixed()));
        differ(path, "default", text(was.defaultValue()), text(is.defaultValue()));
        differ(path, "documentation", was.documentation(), is.documentation());
        picks(path, was, is, depth);
        if (!is.recursive() && !was.recursive()) {
            children(was, is, depth);
        }
    }

    private void children(SheetField was, SheetField is, int depth) {
        Map<String, SheetField> old = new LinkedHashMap<>();
        was.children().forEach(f -> old.putIfAbsent(key(f), f));
        for (SheetField now : is.children()) {
            SheetField then = old.remove(key(now));
            if (then == null) {
                add(Kind.ADDED, now.path(), "field", "", now.typeLabel() + " " + occurrence(now));
            } else {
                compare(then, now, depth + 1);
            }
        }
        old.values()
                .forEach(
                        gone -> add(Kind.REMOVED, gone.path(), "field", gone.typeLabel() + " " + occurrence(gone), ""));
    }

    private static String key(SheetField field) {
        return field.kind() + " " + field.name().local();
    }

    /** Types and elements that may be picked: those that came or went, and the fields of each, once a message. */
    private void picks(String path, SheetField was, SheetField is, int depth) {
        List<Name> old = new ArrayList<>(was.typeChoices());
        for (Name type : is.typeChoices()) {
            Name then = sameLocal(old, type);
            if (then == null) {
                add(Kind.ADDED, path, "type to pick", "", type.local());
            } else {
                old.remove(then);
                boolean further = !type.equals(is.type().name()) && compared.add("type " + type);
                SheetField a = further ? was.as(new SheetPath.Step(was.name(), false, 1, then)) : null;
                SheetField b = further ? is.as(new SheetPath.Step(is.name(), false, 1, type)) : null;
                if (a != null && b != null) {
                    children(a, b, depth + 1);
                }
            }
        }
        old.forEach(gone -> add(Kind.REMOVED, path, "type to pick", gone.local(), ""));
        List<Name> oldElements = new ArrayList<>(was.elementChoices());
        for (Name element : is.elementChoices()) {
            Name then = sameLocal(oldElements, element);
            if (then == null) {
                add(Kind.ADDED, path, "element to pick", "", element.local());
            } else {
                oldElements.remove(then);
                boolean further = !element.equals(is.name()) && compared.add("element " + element);
                SheetField a = further ? was.as(new SheetPath.Step(then, false, 1, null)) : null;
                SheetField b = further ? is.as(new SheetPath.Step(element, false, 1, null)) : null;
                if (a != null && b != null) {
                    compare(a, b, depth + 1);
                }
            }
        }
        oldElements.forEach(gone -> add(Kind.REMOVED, path, "element to pick", gone.local(), ""));
    }

    private static Name sameLocal(List<Name> names, Name wanted) {
        return names.contains(wanted)
                ? wanted
                : names.stream()
                        .filter(n -> n.local().equals(wanted.local()))
                        .findFirst()
                        .orElse(null);
    }

    /** What restricts a simple type is told as facets, so only another base is another type. */
    private static String type(SheetField field) {
        return field.rule() == null ? field.typeLabel() : field.rule().builtIn().name();
    }

    private static String occurrence(SheetField field) {
        return field.min() + ".." + (field.max() < 0 ? "n" : field.max())
                + (field.choice() == null
                        ? ""
                        : " in a choice of " + field.choice().of());
    }

    private static String facets(SheetField field) {
        if (field.rule() == null) {
            return "";
        }
        List<String> all = new ArrayList<>(field.rule().facetWords());
        if (!field.rule().enumeration().isEmpty()) {
            all.add("one of " + String.join(", ", field.rule().enumeration()));
        }
        return String.join("; ", all);
    }

    private static String text(String value) {
        return value == null ? "" : value;
    }

    private void differ(String path, String what, String was, String is) {
        if (!was.equals(is)) {
            add(Kind.CHANGED, path, what, was, is);
        }
    }

    private void add(Kind kind, String path, String what, String was, String is) {
        // a changed namespace touches every field: it is told where it is first met
        if (what.equals("namespace") && toldOnce.merge(operation + message + was + is, 1, Integer::sum) > 1) {
            return;
        }
        if (changes.size() < MOST_CHANGES) {
            // ports of one service mostly offer the same operations: what changed alike is told once
            String place = operation.isEmpty() ? port : "";
            Change change = new Change(kind, place, operation, message, path, what, was, is);
            changes.computeIfAbsent(change, c -> new LinkedHashSet<>()).add(port);
        }
    }
}
