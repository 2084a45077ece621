package wirekettle.core.flow.compile;

import wirekettle.core.flow.file.Stage;

/** Compiles the stages of one verb. */
interface StageCompiler<S extends Stage> {
    /** Compiles a stage; problems are added to {@code at}, none is an exception. */
    Compiled compile(S stage, Reach reach, Compilation at);
}
