import { inject, Injectable } from '@angular/core';
import { RuleSchema, type Rule } from '@early-sparrow/core/rules';
import { NamedStore } from './named-store';
import { SongStore } from './song-store';

/** Rules that this browser keeps, by name. */
@Injectable({ providedIn: 'root' })
export class RuleStore extends NamedStore<Rule> {
  constructor() {
    super(inject(SongStore).rules, (one) => RuleSchema.safeParse(one).success);
  }
}
