package longthread.service.web;

import io.swagger.v3.oas.annotations.Hidden;
import org.springframework.stereotype.Controller;
import org.springframework.web.bind.annotation.GetMapping;

/** The console at the root, which takes events too: reading it shows the page. */
@Hidden
@Controller
class ConsolePage {
  @GetMapping("/")
  String page() {
    return "forward:/index.html";
  }
}
