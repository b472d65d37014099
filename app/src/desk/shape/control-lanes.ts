import { Injectable } from '@angular/core';
import { ControlLane } from './control-lane';

@Injectable()
export class PedalLane extends ControlLane {
  readonly id = 'pedal';
  readonly name = 'Pedal';
  readonly order = 40;
  readonly kind = 'pedal';

  constructor() {
    super();
    this.book.add({ id: this.id, usual: () => 62 });
  }
}

@Injectable()
export class BendLane extends ControlLane {
  readonly id = 'bend';
  readonly name = 'Pitch bend';
  readonly order = 50;
  readonly kind = 'bend';

  constructor() {
    super();
    this.book.add({ id: this.id, usual: () => 90 });
  }
}

@Injectable()
export class PressureLane extends ControlLane {
  readonly id = 'pressure';
  readonly name = 'Pressure';
  readonly order = 60;
  readonly kind = 'pressure';

  constructor() {
    super();
    this.book.add({ id: this.id, usual: () => 90 });
  }
}

@Injectable()
export class ControllerLane extends ControlLane {
  readonly id = 'controller';
  readonly name = 'Controller';
  readonly order = 70;
  readonly kind = 'controller';

  constructor() {
    super();
    this.book.add({ id: this.id, usual: () => 90 });
  }
}
