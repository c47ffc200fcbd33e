// Rules of this house that no linter has.

const callsOf = (node) =>
  node.type === 'CallExpression' || node.type === 'NewExpression' ? node.callee.name : undefined;

/** Parts are fetched by fetchPart() or a LatePart, so that one that does not come is a fault with a hint. */
const fetchedParts = {
  create: (context) => ({
    ImportExpression(node) {
      for (let above = node.parent; above; above = above.parent)
        if (['fetchPart', 'LatePart'].includes(callsOf(above))) return;
      context.report({
        node,
        message: 'Fetch parts with fetchPart() or a LatePart, so that one that does not come is a fault with a hint.',
      });
    },
  }),
};

export default { meta: { name: 'house' }, rules: { 'fetched-parts': fetchedParts } };
