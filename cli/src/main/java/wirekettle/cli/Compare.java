package wirekettle.cli;

import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.SerializationFeature;
import java.io.IOException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.Callable;
import java.util.function.Function;
import java.util.stream.Collectors;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import wirekettle.core.contract.Contract;
import wirekettle.core.contract.ContractDocument;
import wirekettle.core.flow.file.FlowBundle;
import wirekettle.core.flow.file.FlowDifference;

/** Says what differs between two flow bundles. */
@Command(
        name = "compare",
        mixinStandardHelpOptions = true,
        description =
                "Compare two flow bundles (folders or zips). Exit 0 the same, 1 they differ, 2 could not compare.")
final class Compare implements Callable<Integer> {
    @Parameters(index = "0", paramLabel = "BEFORE", description = "the bundle that is there")
    private Path before;

    @Parameters(index = "1", paramLabel = "AFTER", description = "the bundle that takes its place")
    private Path after;

    @Option(names = "--json", description = "the differences as JSON")
    private boolean json;

    @Override
    public Integer call() throws IOException {
        FlowBundle old = FlowBundle.read(before);
        FlowBundle now = FlowBundle.read(after);
        List<FlowDifference> all = new ArrayList<>(FlowDifference.between(old.flow(), now.flow()));
        uses("contract", old.contracts(), now.contracts(), Compare::documents, all);
        uses("dataset", old.datasets(), now.datasets(), String::valueOf, all);
        uses("endpoint", old.endpoints(), now.endpoints(), String::valueOf, all);
        uses("code table", old.codeTables(), now.codeTables(), String::valueOf, all);
        uses("series", old.series(), now.series(), String::valueOf, all);
        uses("value", old.values(), now.values(), each -> each, all);
        if (json) {
            System.out.println(new ObjectMapper()
                    .enable(SerializationFeature.INDENT_OUTPUT)
                    .writeValueAsString(all));
        } else {
            all.forEach(Compare::tell);
        }
        return all.isEmpty() ? 0 : 1;
    }

    private static String documents(Contract contract) {
        return contract.documents().stream().map(ContractDocument::hash).collect(Collectors.joining(" "));
    }

    private static <T> void uses(
            String kind, Map<String, T> old, Map<String, T> now, Function<T, String> text, List<FlowDifference> into) {
        Set<String> names = new TreeSet<>(old.keySet());
        names.addAll(now.keySet());
        for (String name : names) {
            String was = old.containsKey(name) ? text.apply(old.get(name)) : null;
            String its = now.containsKey(name) ? text.apply(now.get(name)) : null;
            if (!Objects.equals(was, its)) {
                FlowDifference.Kind how = was == null
                        ? FlowDifference.Kind.ADDED
                        : its == null ? FlowDifference.Kind.REMOVED : FlowDifference.Kind.CHANGED;
                into.add(new FlowDifference(null, kind + " " + name, how, null, was, its));
            }
        }
    }

    private static void tell(FlowDifference each) {
        System.out.println(each.kind().word() + "  " + each.title()
                + (each.what() == null ? "" : "  " + each.what().replaceAll("\\{[^}]*}", "")));
        boolean shown = each.what() != null
                || each.kind() == FlowDifference.Kind.MOVED
                || each.title().startsWith("value ");
        if (shown && each.before() != null) {
            System.out.println("    - " + each.before());
        }
        if (shown && each.after() != null) {
            System.out.println("    + " + each.after());
        }
    }
}
