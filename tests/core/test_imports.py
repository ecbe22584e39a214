"""No circle of files, not even for the sake of types: what is held is known, what holds is not."""

import grimp
import pytest


def circles(graph):
    """Lots of modules each of which can be reached from every other (Tarjan 1972)."""
    order, low, stack, found = {}, {}, [], []

    def visit(module):
        order[module] = low[module] = len(order)
        stack.append(module)
        for other in sorted(graph.find_modules_directly_imported_by(module)):
            if other not in order:
                visit(other)
                low[module] = min(low[module], low[other])
            elif other in stack:
                low[module] = min(low[module], order[other])
        if low[module] == order[module]:
            lot = stack[stack.index(module) :]
            del stack[stack.index(module) :]
            if len(lot) > 1:
                found.append(sorted(lot))

    for module in sorted(graph.modules):
        if module not in order:
            visit(module)
    return found


def test_circles_are_seen():
    graph = grimp.ImportGraph()
    for a, b in (("a", "b"), ("b", "c"), ("c", "a"), ("c", "d")):
        graph.add_import(importer=a, imported=b)
    assert circles(graph) == [["a", "b", "c"]]


@pytest.mark.parametrize("package", ["sunlatch", "studio", "fieldworld"])
def test_no_circle_of_files(package):
    assert circles(grimp.build_graph(package)) == []
