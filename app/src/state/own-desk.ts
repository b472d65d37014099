import { Injectable } from '@angular/core';
import { BaseRouteReuseStrategy, type ActivatedRouteSnapshot } from '@angular/router';

/** Gives each song a desk of its own: nothing chosen, shown or set for one song carries over to the next. */
@Injectable()
export class OwnDesk extends BaseRouteReuseStrategy {
  override shouldReuseRoute(next: ActivatedRouteSnapshot, now: ActivatedRouteSnapshot): boolean {
    return super.shouldReuseRoute(next, now) && next.params['id'] === now.params['id'];
  }
}
