package wirekettle.cli;

import java.io.IOException;
import java.nio.file.Path;
import java.util.HashMap;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Parameters;
import wirekettle.core.expression.Expressions;
import wirekettle.core.fill.MappingContext;
import wirekettle.core.fill.MessageStyle;
import wirekettle.core.flow.compile.CompiledFlow;
import wirekettle.core.flow.compile.FlowProblem;
import wirekettle.core.flow.compile.Surroundings;
import wirekettle.core.flow.file.FlowBundle;
import wirekettle.core.value.Layout;

/** Compiles a flow bundle and prints its problems. */
@Command(
        name = "check",
        mixinStandardHelpOptions = true,
        description = "Compile a flow bundle and print its problems. Exit 0 none, 1 some, 2 not readable.")
final class Check implements Callable<Integer> {
    @Parameters(paramLabel = "BUNDLE", description = "a bundle's folder or zip")
    private Path bundlePath;

    @Override
    public Integer call() throws IOException {
        CompiledFlow flow = compiled(FlowBundle.read(bundlePath));
        tell(flow);
        boolean sound = flow.runnable() && flow.problems().isEmpty();
        if (sound) {
            System.out.println("“" + flow.file().name() + "” has no problems");
        }
        return sound ? 0 : 1;
    }

    /** Compiles a bundle against what is in it. */
    static CompiledFlow compiled(FlowBundle bundle) {
        Map<String, Layout> layouts = new TreeMap<>();
        bundle.datasets().forEach((name, spec) -> {
            if (spec.layout() != null) {
                layouts.put(name, spec.layout());
            }
        });
        Map<String, MessageStyle> styles = new HashMap<>();
        bundle.endpoints().forEach((name, spec) -> {
            if (spec.style() != null) {
                styles.put(name, spec.style());
            }
        });
        MappingContext context = MappingContext.of(new Expressions())
                .with(bundle.codeTables())
                .with(bundle.folders())
                .drawing(bundle.series());
        return CompiledFlow.of(
                bundle.flow(),
                new Surroundings(
                        bundle.contracts(),
                        layouts,
                        styles,
                        context,
                        bundle.values().keySet()));
    }

    /** Prints the problems of a flow. */
    static void tell(CompiledFlow flow) {
        for (FlowProblem problem : flow.problems()) {
            String stage = problem.stage() == null ? "" : "stage " + problem.stage() + ": ";
            System.err.println("kettle: " + stage + problem.message());
        }
        if (flow.problems().isEmpty() && !flow.runnable()) {
            System.err.println("kettle: the flow cannot run yet");
        }
    }
}
