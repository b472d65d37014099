// Icons are texts in the built application; tests need none of them.
export default '<svg></svg>';
