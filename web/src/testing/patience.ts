/** Nothing is timed here: what takes long on a busy machine is waited for. */
import { configure } from "@testing-library/react";

configure({ asyncUtilTimeout: 20_000 });
