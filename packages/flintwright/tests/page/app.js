// The README's application, as any bundler takes it.
import { createMap } from 'flintwright';
import 'flintwright/element';

const square = {
  type: 'Polygon',
  coordinates: [
    [
      [-3, -3],
      [3, -3],
      [3, 3],
      [-3, 3],
      [-3, -3],
    ],
  ],
};

window.map = createMap('#map', {
  sheet: {
    sheet: 1,
    background: '#b9d4d9',
    data: { land: { features: square } },
    view: { center: [0, 0], zoom: 5 },
    layers: [{ id: 'land', of: 'land', fill: '#f4f0e6' }],
  },
});
window.map.markers.add({ at: [8, 5], icon: 'anchor', popup: { title: 'Hallow Quay', html: '<b>Quay</b>' } });
