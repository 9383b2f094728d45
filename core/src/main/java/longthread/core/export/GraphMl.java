package longthread.core.export;

import java.io.Writer;
import java.util.List;
import javax.xml.stream.XMLOutputFactory;
import javax.xml.stream.XMLStreamException;
import javax.xml.stream.XMLStreamWriter;
import org.jspecify.annotations.Nullable;

/**
 * The graph as GraphML: datasets and columns are nodes, links are edges, with what is known of them
 * as data.
 *
 * @see "GraphML 1.0, graphml.graphdrawing.org"
 */
public final class GraphMl {
  private static final String NAMESPACE = "http://graphml.graphdrawing.org/xmlns";
  private static final List<String> OF_NODES =
      List.of("kind", "name", "system", "dataset", "description", "owners");
  private static final List<String> OF_EDGES = List.of("flow", "how", "masking", "by");

  private final XMLStreamWriter xml;

  private GraphMl(XMLStreamWriter xml) {
    this.xml = xml;
  }

  /** Writes the graph; takes time linear in it. */
  public static void write(ExportedGraph graph, Writer out) throws XMLStreamException {
    XMLStreamWriter xml = XMLOutputFactory.newDefaultFactory().createXMLStreamWriter(out);
    new GraphMl(xml).write(graph);
    xml.flush();
  }

  private void write(ExportedGraph graph) throws XMLStreamException {
    xml.writeStartDocument("UTF-8", "1.0");
    xml.writeStartElement("graphml");
    xml.writeDefaultNamespace(NAMESPACE);
    keys("node", OF_NODES);
    keys("edge", OF_EDGES);
    xml.writeStartElement("graph");
    xml.writeAttribute("edgedefault", "directed");
    for (ExportedGraph.Asset asset : graph.assets()) {
      node(asset.ref());
      data("kind", asset.kind());
      data("name", asset.name());
      data("system", asset.system());
      data("description", asset.description());
      data("owners", String.join("; ", asset.owners().stream().map(o -> o.name()).toList()));
      xml.writeEndElement();
      for (ExportedGraph.Column column : asset.columns()) {
        node(asset.ref() + "#" + column.path());
        data("kind", "column");
        data("name", column.path());
        data("system", asset.system());
        data("dataset", asset.ref());
        data("description", column.description());
        xml.writeEndElement();
      }
    }
    for (ExportedGraph.Link link : graph.links()) {
      xml.writeStartElement("edge");
      xml.writeAttribute("source", clean(link.source()));
      xml.writeAttribute("target", clean(link.target()));
      data("flow", link.flow().name());
      data("how", link.flow().words());
      data("masking", String.valueOf(link.masking()));
      data("by", link.maker());
      xml.writeEndElement();
    }
    xml.writeEndElement();
    xml.writeEndElement();
    xml.writeEndDocument();
  }

  private void keys(String of, List<String> names) throws XMLStreamException {
    for (String name : names) {
      xml.writeEmptyElement("key");
      xml.writeAttribute("id", name);
      xml.writeAttribute("for", of);
      xml.writeAttribute("attr.name", name);
      xml.writeAttribute("attr.type", name.equals("masking") ? "boolean" : "string");
    }
  }

  private void node(String id) throws XMLStreamException {
    xml.writeStartElement("node");
    xml.writeAttribute("id", clean(id));
  }

  private void data(String key, @Nullable String value) throws XMLStreamException {
    if (value != null && !value.isEmpty()) {
      xml.writeStartElement("data");
      xml.writeAttribute("key", key);
      xml.writeCharacters(clean(value));
      xml.writeEndElement();
    }
  }

  /** A text without the characters that no XML document may have (XML 1.0, section 2.2). */
  private static String clean(String text) {
    var clean = new StringBuilder(text.length());
    text.codePoints()
        .filter(
            c ->
                c == '\t'
                    || c == '\n'
                    || c == '\r'
                    || (c >= ' ' && c <= 0xD7FF)
                    || (c >= 0xE000 && c <= 0xFFFD)
                    || c > 0xFFFF)
        .forEach(clean::appendCodePoint);
    return clean.toString();
  }
}
