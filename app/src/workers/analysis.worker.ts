import { expose } from 'comlink';
import { analysePart } from '@early-sparrow/core/insight';
import type { AnalysisApi } from './analysis-api';

const api: AnalysisApi = { analyse: (part, time, progress) => analysePart(part, time, progress) };

expose(api);
