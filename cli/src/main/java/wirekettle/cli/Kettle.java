package wirekettle.cli;

import picocli.CommandLine;
import picocli.CommandLine.Command;

/** The command line. */
@Command(
        name = "kettle",
        mixinStandardHelpOptions = true,
        version = "Wire Kettle 0.1.0",
        description =
                "Inspect contracts, make sample messages, check, compare and run flow bundles; needs no database and no server.",
        subcommands = {Inspect.class, Envelope.class, Check.class, Compare.class, Run.class})
public final class Kettle implements Runnable {
    @CommandLine.Spec
    private CommandLine.Model.CommandSpec spec;

    @Override
    public void run() {
        spec.commandLine().usage(System.out);
    }

    /** Runs a command and exits with its code. */
    public static void main(String[] args) {
        System.exit(run(args));
    }

    /** Runs a command; returns its exit code. */
    static int run(String... args) {
        return new CommandLine(new Kettle())
                .setExecutionExceptionHandler((e, line, parsed) -> {
                    String message = e.getMessage();
                    line.getErr().println("kettle: " + (message == null ? e.toString() : message));
                    return 2;
                })
                .execute(args);
    }
}
