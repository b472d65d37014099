import '../common/no-eval';
import { expose } from 'comlink';
import { fitOnsets } from '@early-sparrow/core/beats';
import { analyseColumns, asynchronies } from '@early-sparrow/core/insight';
import { timeOf } from '@early-sparrow/core/song';
import { followLines } from '@early-sparrow/core/follow';
import { treatmentLines } from '@early-sparrow/core/treatment';
import type { AnalysisApi } from './analysis-api';

const api: AnalysisApi = {
  analyse: (notes, time, told) => analyseColumns(notes, time, told),
  together: (onsets) => asynchronies(onsets),
  fit: (onsets, time, wishes, told) => fitOnsets(onsets, time, wishes, told),
  follow(place, times, settings, told) {
    const time = timeOf(times);
    const lines = treatmentLines(settings, time, settings.reference);
    const { line, drift } = followLines(place, lines, time, settings.grid, told, settings.lagTaken);
    return { line, drift };
  },
};

expose(api);
