package longthread.service.impact;

import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.io.OutputStreamWriter;
import java.nio.charset.StandardCharsets;
import java.util.List;
import longthread.service.impact.ImpactFinder.Found;
import longthread.service.web.Csv;
import longthread.service.web.OutgoingText;
import longthread.service.web.Pages;
import org.dhatim.fastexcel.Workbook;
import org.dhatim.fastexcel.Worksheet;
import org.jspecify.annotations.Nullable;
import org.springframework.http.HttpHeaders;
import org.springframework.stereotype.Component;

/** Impact as files to hand to others: CSV, a workbook, Markdown. */
@Component
class ImpactFiles {
  static final String WORKBOOK =
      "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"; // ISO/IEC 29500
  static final String MARKDOWN = "text/markdown"; // RFC 7763

  private static final int MOST_TEXT = 32_767; // characters of a cell, by the standard
  private static final int[] WIDTHS = {36, 14, 14, 12, 8, 30};

  private final ImpactGroups groups;

  ImpactFiles(ImpactGroups groups) {
    this.groups = groups;
  }

  /**
   * Answers with a file if the caller asks for one.
   *
   * @param by in CSV, the groups to list instead of the items
   * @return whether it did
   */
  boolean send(
      HttpServletRequest request,
      HttpServletResponse response,
      Found found,
      ImpactGroups.@Nullable By by)
      throws IOException {
    String accept = String.valueOf(request.getHeader(HttpHeaders.ACCEPT));
    if (Csv.isWanted(request)) {
      if (by == null) {
        Csv.send(
            response,
            name(found, "csv"),
            ImpactSheet.ITEMS,
            Pages.made(found.items(), ImpactSheet::row));
      } else {
        Csv.send(
            response,
            name(found, by.word() + ".csv"),
            ImpactSheet.GROUPS,
            Pages.made(groups.of(found.judged(), by), ImpactSheet::row));
      }
    } else if (accept.contains(WORKBOOK)) {
      start(response, WORKBOOK, name(found, "xlsx"));
      workbook(response, found);
    } else if (accept.contains(MARKDOWN)) {
      start(response, MARKDOWN + ";charset=UTF-8", name(found, "md"));
      try (var out = new OutputStreamWriter(response.getOutputStream(), StandardCharsets.UTF_8)) {
        new ImpactReport(out)
            .write(
                found,
                groups.of(found.judged(), ImpactGroups.By.OWNER),
                groups.of(found.judged(), by == null ? ImpactGroups.By.SYSTEM : by),
                by == null ? ImpactGroups.By.SYSTEM : by);
      }
    } else {
      return false;
    }
    return true;
  }

  private static String name(Found found, String ending) {
    return "impact-"
        + found.changes().get(0).ref().replaceAll("[^A-Za-z0-9._-]+", "_")
        + "."
        + ending;
  }

  private static void start(HttpServletResponse response, String type, String file) {
    response.setContentType(type);
    response.setHeader(HttpHeaders.CONTENT_DISPOSITION, "attachment; filename=\"" + file + "\"");
  }

  private void workbook(HttpServletResponse response, Found found) throws IOException {
    try (var book = new Workbook(response.getOutputStream(), "LongThread", "1.0")) {
      sheet(book, "Touched", ImpactSheet.ITEMS, Pages.made(found.items(), ImpactSheet::row));
      for (ImpactGroups.By by : ImpactGroups.By.values()) {
        String word = by.word();
        String title = by == ImpactGroups.By.OWNER ? "Contacts" : "By " + word;
        sheet(
            book,
            title,
            ImpactSheet.GROUPS,
            Pages.made(groups.of(found.judged(), by), ImpactSheet::row));
      }
      sheet(
          book,
          "Untouched",
          ImpactSheet.UNTOUCHED,
          Pages.made(found.untouched(), ImpactSheet::row));
    }
  }

  /** Writes one sheet, row by row, so that it takes the same memory whatever its length. */
  private static void sheet(
      Workbook book,
      String title,
      List<String> heading,
      Iterable<? extends List<? extends @Nullable Object>> rows)
      throws IOException {
    Worksheet sheet = book.newWorksheet(title);
    for (int column = 0; column < heading.size(); column++) {
      sheet.value(0, column, heading.get(column));
      sheet.width(column, column < WIDTHS.length ? WIDTHS[column] : 24);
    }
    sheet.range(0, 0, 0, heading.size() - 1).style().bold().set();
    sheet.freezePane(0, 1);
    sheet.setAutoFilter(0, 0, heading.size() - 1);
    int at = 1;
    for (List<? extends @Nullable Object> row : rows) {
      for (int column = 0; column < row.size(); column++) {
        Object cell = row.get(column);
        if (cell instanceof Number number) {
          sheet.value(at, column, number);
        } else if (cell != null && !cell.toString().isEmpty()) {
          String text = OutgoingText.of(cell.toString());
          sheet.value(at, column, text.substring(0, Math.min(text.length(), MOST_TEXT)));
        }
      }
      at++;
    }
    sheet.finish();
  }
}
